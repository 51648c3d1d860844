import { RefusedThere, Unreachable } from '@porch/client';
import { AppError } from '@porch/wire';
import { reasonInWords, refusals, w } from './words/index.ts';

/** What to tell a person about a failure. A code that only a newer service knows is told in its own words. */
export function inWords(error: unknown): string {
  if (error instanceof AppError)
    return Object.hasOwn(refusals.value, error.code) ? refusals.value[error.code] : error.message;
  return error instanceof Unreachable ? w.value.common.unreachable : w.value.common.broken;
}

/** The same, where the customer's side may have said no: `say` is what that means for what was wanted. */
export const inWordsOr = (error: unknown, say: (p: { readonly why: string }) => string): string =>
  error instanceof RefusedThere ? say({ why: reasonInWords(error.why) }) : inWords(error);
