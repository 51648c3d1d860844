import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { inject } from 'vitest';

export interface ProgramResult {
  /** -1 when a signal ended it. */
  readonly code: number;
  readonly out: string;
  readonly err: string;
}

/** One of the built programs as its own process, to its end. */
export function runProgram(
  file: string,
  args: readonly string[],
  env: NodeJS.ProcessEnv,
  input: string,
): Promise<ProgramResult> {
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, [join(inject('root'), 'dist', file), ...args], {
      env: { ...process.env, ...env },
    });
    let [out, err] = ['', ''];
    child.stdout.on('data', (part: Buffer) => (out += part.toString()));
    child.stderr.on('data', (part: Buffer) => (err += part.toString()));
    child.on('error', reject);
    child.on('close', (code) => resolve({ code: code ?? -1, out, err }));
    child.stdin.end(input);
  });
}
