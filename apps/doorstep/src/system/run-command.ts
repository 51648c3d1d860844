import { PartMissing } from '@porch/host';
import { execFile } from 'node:child_process';

/** Where the system's own tools lie. What the person's account puts before them is not asked. */
const PATH = '/usr/sbin:/usr/bin:/sbin:/bin';
const MAX_OUTPUT_BYTES = 8 * 1024 * 1024;

/**
 * What a tool of the system prints, in English. Nothing goes through a shell. It is killed with the signal. Rejects with
 * PartMissing where there is no such tool; another end than 0 is an answer as well.
 */
export function runCommand(command: string, args: readonly string[], signal: AbortSignal): Promise<string> {
  return new Promise((resolve, reject) => {
    execFile(
      command,
      [...args],
      { signal, killSignal: 'SIGKILL', maxBuffer: MAX_OUTPUT_BYTES, encoding: 'utf8', env: { PATH, LC_ALL: 'C' } },
      (error, stdout) => {
        if (!error || typeof error.code === 'number') resolve(stdout);
        else reject((error as NodeJS.ErrnoException).code === 'ENOENT' ? new PartMissing('not-there') : error);
      },
    );
  });
}
