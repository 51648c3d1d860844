import { AppError } from '@porch/wire';
import { isConnectionTrouble } from './db/connection-trouble.ts';

/** What somebody outside is told of a failure: a refusal as it is, trouble with the records as such, a bug as no more than that. */
export function refusalOf(error: unknown): AppError {
  if (error instanceof AppError) return error;
  return isConnectionTrouble(error)
    ? new AppError('RECORDS_DOWN', {}, { cause: error })
    : new AppError('INTERNAL', {}, { cause: error });
}

/** For what is missing where it is refused, and goes on without it: anything but a refusal is thrown again. */
export function unlessRefused(error: unknown): undefined {
  if (!(error instanceof AppError)) throw error;
}
