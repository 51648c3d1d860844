import { AppError } from '@porch/wire';

/**
 * What another participant sealed for us may be a repeat, forged or cut. That says nothing about our own line, so such
 * a message is dropped, and only it.
 */
export function unlessUnreadable<T>(read: () => T): T | undefined {
  try {
    return read();
  } catch (error) {
    if (error instanceof AppError) return undefined;
    throw error;
  }
}
