import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { root } from './stage.ts';

/** The ledger of the session that is open there, as `porch watch` tells it, from now on. */
export function watchLedger(home: string): { soFar(): string; stop(): void } {
  const child = spawn(process.execPath, [join(root, 'dist', 'porch.mjs'), 'watch'], {
    env: { ...process.env, PORCH_HOME: home },
  });
  let text = '';
  child.stdout.on('data', (part: Buffer) => (text += part.toString()));
  return { soFar: () => text, stop: () => void child.kill() };
}
