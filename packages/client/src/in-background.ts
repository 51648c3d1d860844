/**
 * For work that nobody waits for: its failure is said where the program says its errors, with what it was, and goes no
 * further. Every promise that is not awaited is handed to this, or has a handler of its own; lint holds that.
 */
export function inBackground(what: string, work: Promise<unknown>): void {
  work.catch((cause: unknown) => {
    const error = new Error(`${what} failed`, { cause });
    const { reportError, process } = globalThis as {
      reportError?: (error: Error) => void;
      process?: { emitWarning?: (error: Error) => void };
    };
    // A page tells its window, a program of Node its own warnings: neither ends by it.
    if (reportError) reportError(error);
    else process?.emitWarning?.(error);
  });
}
