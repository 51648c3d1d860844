import { closeSync, fsyncSync, openSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';

/** Writes a file for this account alone: whole or not at all, and on the disk when it returns. The power may go at any time. */
export function writeWhole(file: string, text: string): void {
  const fresh = `${file}.new`;
  const handle = openSync(fresh, 'w', 0o600);
  try {
    // All of it: one write alone may take only a part.
    writeFileSync(handle, text);
    fsyncSync(handle);
  } catch (error) {
    rmSync(fresh, { force: true });
    throw error;
  } finally {
    closeSync(handle);
  }
  renameSync(fresh, file);
  const folder = openSync(dirname(file), 'r');
  try {
    fsyncSync(folder);
  } finally {
    closeSync(folder);
  }
}
