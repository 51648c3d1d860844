import { UnsafeAddress } from '@porch/client';
import { AppError } from '@porch/wire';
import { refusals, wrong } from '../words.ts';
import { CliError, exitCodes } from '../exit-codes.ts';

/** The one place where a failure becomes an exit code. */
export function explain(error: unknown): { code: string; message: string; exitCode: number } {
  if (error instanceof CliError) return { code: 'WRONG_CALL', message: error.message, exitCode: error.exitCode };
  if (error instanceof UnsafeAddress)
    return { code: 'WRONG_CALL', message: error.message, exitCode: exitCodes.wrongCall };
  if (error instanceof AppError) {
    const isSignIn = error.code === 'SIGN_IN_NEEDED' || error.code === 'SIGN_IN_FAILED';
    return {
      code: error.code,
      message: `${refusals[error.code]} (${error.code})`,
      exitCode: isSignIn ? exitCodes.signInNeeded : exitCodes.refused,
    };
  }
  const isUnreachable = (error as Error).name === 'Unreachable';
  return {
    code: isUnreachable ? 'UNREACHABLE' : 'FAILED',
    message: isUnreachable ? wrong.unreachable({ why: (error as Error).message }) : String((error as Error).stack),
    exitCode: isUnreachable ? exitCodes.unreachable : exitCodes.refused,
  };
}
