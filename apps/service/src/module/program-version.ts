import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';

/**
 * Tells this program from every other, older and newer: what was worked out by another one is not taken over. The service
 * is one file, so its bytes say it.
 */
export function programVersion(file: string): string {
  return createHash('sha256').update(readFileSync(file)).digest('hex').slice(0, 16);
}
