import { AppError } from '@porch/wire';
import { isConnectionTrouble } from './db/connection-trouble.ts';

/** What somebody outside is told of a failure: a refusal as it is, trouble with the records as such, a bug as no more than that. */
export function refusalOf(error: unknown): AppError {
  if (error instanceof AppError) return error;
  return isConnectionTrouble(error)
    ? new AppError('RECORDS_DOWN', {}, { cause: error })
    : new AppError('INTERNAL', {}, { cause: error });
}
