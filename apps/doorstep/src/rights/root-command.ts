import { RightsRefused } from '@porch/host';
import { isSea } from 'node:sea';
import { ownCommand } from '../release/self.ts';
import { isRootsOwn } from '../system/roots-own.ts';

/**
 * A copy that root alone may change, of the very file that runs as this process: what lies under its name may have been
 * changed since by whoever may write there, and what runs cannot be. It deletes its copy as it begins.
 */
const COPIES =
  'umask 077; d=$(mktemp -d /run/doorstep-XXXXXXXXXX) && cp -- "/proc/$1/exe" "$d/doorstep" && chmod 700 "$d/doorstep" && exec "$d/doorstep" root-part';

/** How the part that holds rights is started, by whoever may. Throws RightsRefused where others could change what is started. */
export function rootCommand(): readonly [string, ...string[]] {
  if (isSea()) return ['/bin/sh', '-c', COPIES, 'sh', String(process.pid)];
  const [command = '', ...args] = ownCommand();
  for (const file of [command, ...args])
    if (!isRootsOwn(file)) throw new RightsRefused('this Doorstep could be changed by whoever uses it');
  return [command, ...args, 'root-part'];
}
