import { Unreachable } from '@porch/client';
import { AppError } from '@porch/wire';

/** What to tell a person about a failure. */
export function inWords(error: unknown): string {
  if (error instanceof AppError) return error.message;
  if (error instanceof Unreachable) return 'The service cannot be reached just now. What you see may be old.';
  return 'Something went wrong on this page. Reload it, and tell your lead if it happens again.';
}
