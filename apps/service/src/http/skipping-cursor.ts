import { AppError } from '@porch/wire';
import { createHash } from 'node:crypto';
import { z } from 'zod';

/* Pages of a list that is short enough to be counted from its beginning: the cursor says how many were there already. */

const Cursor = z.tuple([z.string(), z.number().int().min(0)]);
const questionOf = (asked: object): string =>
  createHash('sha256').update(JSON.stringify(asked)).digest('base64url').slice(0, 12);

/** How many a page begins behind. Throws CURSOR_UNKNOWN for one of another question. */
export function skippedBy(asked: object, cursor: string | undefined): number {
  if (cursor === undefined) return 0;
  try {
    const [of, skipped] = Cursor.parse(JSON.parse(Buffer.from(cursor, 'base64url').toString('utf8')));
    if (of === questionOf(asked)) return skipped;
  } catch {
    // Said below.
  }
  throw new AppError('CURSOR_UNKNOWN');
}

/** Where the page behind so many begins. */
export const skipping = (asked: object, skipped: number): string =>
  Buffer.from(JSON.stringify([questionOf(asked), skipped])).toString('base64url');
