import { PartMissing } from '@porch/host';
import { execFile } from 'node:child_process';

/** Where the system's own tools lie. What the person's account puts before them is not asked. */
export const SYSTEM_PATH = '/usr/sbin:/usr/bin:/sbin:/bin';
const MAX_OUTPUT_BYTES = 8 * 1024 * 1024;

/** Where the person's own part of the system is reached: their services are asked there. */
const ownRuntime = (): Record<string, string> =>
  process.getuid ? { XDG_RUNTIME_DIR: `/run/user/${process.getuid()}` } : {};

/** How a tool of the system ended. */
export interface Ended {
  readonly code: number;
  readonly out: string;
  readonly wrong: string;
}

/**
 * Runs a tool of the system, in English. Nothing goes through a shell. It is killed with the signal. Rejects with
 * PartMissing where there is no such tool; another end than 0 is an answer as well.
 */
export function runToItsEnd(command: string, args: readonly string[], signal: AbortSignal): Promise<Ended> {
  return new Promise((resolve, reject) => {
    execFile(
      command,
      [...args],
      {
        ...{ signal, killSignal: 'SIGKILL', maxBuffer: MAX_OUTPUT_BYTES, encoding: 'utf8' },
        env: { PATH: SYSTEM_PATH, LC_ALL: 'C', ...ownRuntime() },
      },
      (error, out, wrong) => {
        if (!error || typeof error.code === 'number') resolve({ code: Number(error?.code ?? 0), out, wrong });
        else reject((error as NodeJS.ErrnoException).code === 'ENOENT' ? new PartMissing('not-there') : error);
      },
    );
  });
}

/** What a tool of the system prints, however it ends. */
export const runCommand = async (command: string, args: readonly string[], signal: AbortSignal): Promise<string> =>
  (await runToItsEnd(command, args, signal)).out;
