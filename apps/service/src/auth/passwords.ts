import { hash } from '@node-rs/argon2';

/** argon2id: 19 MiB and two passes, the smallest choice of the usual recommendations that fits a small server. */
const argonOptions = { memoryCost: 19_456, timeCost: 2, parallelism: 1 };

export const hashPassword = (password: string): Promise<string> => hash(password, argonOptions);
