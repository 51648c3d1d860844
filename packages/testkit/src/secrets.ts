import { randomBytes } from 'node:crypto';
import { existsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** A file with a fresh secret, made once. */
export function secretFor(folder: string, name: string): string {
  const file = join(folder, name);
  if (!existsSync(file)) writeFileSync(file, randomBytes(32).toString('hex'), { mode: 0o600 });
  return file;
}
