import { closeSync, fstatSync, openSync, readFileSync, readSync } from 'node:fs';

/** A small file of the system; nothing for one that is not there, or not for us. */
export function textOf(path: string): string | undefined {
  try {
    return readFileSync(path, 'utf8');
  } catch {
    return undefined;
  }
}

/** The end of a file that may be large. */
export function endOf(path: string, mostBytes: number): string {
  let file: number;
  try {
    file = openSync(path, 'r');
  } catch {
    return '';
  }
  try {
    const { size } = fstatSync(file);
    const length = Math.min(size, mostBytes);
    const bytes = Buffer.alloc(length);
    readSync(file, bytes, 0, length, size - length);
    return bytes.toString('utf8');
  } finally {
    closeSync(file);
  }
}

/** As much as a report takes of one text. */
export const short = (text: string): string => [...text.trim()].slice(0, 120).join('');
