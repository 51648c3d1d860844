import { mkdirSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { z } from 'zod';
import { saidByRoot } from '../system/roots-own.ts';

/** Where the desk's administrators say whose leave counts on this computer: read by everybody, written by root alone. */
export const INSTALLED = '/etc/zesty-porch/rights.json';
/** Where the part that holds rights is reached. */
export const SOCKET = '/run/zesty-porch-rights.socket';
/** Which leaves were used. */
const USED = '/var/lib/zesty-porch/used-leaves';
const DAY_MS = 86_400_000;

const Installed = z.strictObject({
  deskKey: z.string().regex(/^[0-9a-f]{64}$/),
  deviceId: z.string().regex(/^[0-9a-f]{32}$/),
});
export type Installed = z.infer<typeof Installed>;

/** Undefined where nothing is installed, or what is there is not root's own. */
export const installedHere = (): Installed | undefined => saidByRoot(INSTALLED, Installed);
/** The same for the part itself. Throws where it is not installed. */
export function readInstalled(): Installed {
  const installed = installedHere();
  if (!installed) throw new Error(`${INSTALLED} is missing, or could be changed by others than root`);
  return installed;
}

/** Whether it was never used before: false the second time, after a restart of the computer, too. */
export function takeOnce(raiseId: string): boolean {
  mkdirSync(USED, { recursive: true, mode: 0o700 });
  for (const name of readdirSync(USED))
    if (Date.now() - statSync(join(USED, name)).mtimeMs > DAY_MS) rmSync(join(USED, name), { force: true });
  try {
    writeFileSync(join(USED, raiseId), '', { flag: 'wx', mode: 0o600 });
    return true;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'EEXIST') return false;
    throw error;
  }
}
