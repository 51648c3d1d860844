import { files } from './files.ts';
import { people } from './people.ts';
import { permissions } from './permissions.ts';
import { words } from './words.ts';

/** What is kept beside every session's ledger. */
export const sessionProjections = [people, permissions, files, words] as const;
