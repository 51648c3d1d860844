import { readFileSync, statSync } from 'node:fs';
import { dirname } from 'node:path';
import type { z } from 'zod';
import { jsonOrUndefined } from '../json-or-undefined.ts';

/** Whether a file, and each folder on the way to it, is root's and nobody else may write there. */
export function isRootsOwn(file: string): boolean {
  for (let path = file; ; path = dirname(path)) {
    const { uid, mode } = statSync(path);
    // In a folder with the sticky bit nobody takes away what is somebody else's.
    const isOpen = (mode & 0o022) !== 0 && !(mode & 0o1000);
    if (uid !== 0 || isOpen) return false;
    if (path === dirname(path)) return true;
  }
}

/** What root said there for everybody to read; undefined where nothing is, or it could be changed by others than root. */
export function saidByRoot<T>(file: string, schema: z.ZodType<T>): T | undefined {
  try {
    const { uid, mode } = statSync(file);
    if (uid !== 0 || mode & 0o022) return undefined;
    const read = schema.safeParse(jsonOrUndefined(readFileSync(file, 'utf8')));
    return read.success ? read.data : undefined;
  } catch (error) {
    if (['ENOENT', 'EACCES', 'ENOTDIR'].includes((error as NodeJS.ErrnoException).code ?? '')) return undefined;
    throw error;
  }
}
