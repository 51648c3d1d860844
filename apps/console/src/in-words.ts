import { Unreachable } from '@porch/client';
import { AppError } from '@porch/wire';
import { refusals, w } from './words/index.ts';

/** What to tell a person about a failure. A code that only a newer service knows is told in its own words. */
export function inWords(error: unknown): string {
  if (error instanceof AppError)
    return Object.hasOwn(refusals.value, error.code) ? refusals.value[error.code] : error.message;
  return error instanceof Unreachable ? w.value.common.unreachable : w.value.common.broken;
}
