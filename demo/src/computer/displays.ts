import { existsSync, lstatSync, readdirSync, readlinkSync, rmSync, symlinkSync } from 'node:fs';
import { join } from 'node:path';
import { X_SOCKETS } from '../account.ts';

/** Numbers of displays from which the screens of stand-in computers are reached. */
const FIRST_DISPLAY = 1000;

/** The next number of a display that nobody has. */
export function freeDisplay(): number {
  for (const name of readdirSync(X_SOCKETS)) {
    const path = join(X_SOCKETS, name);
    // Of a computer that is gone, and could not say so. One that starts just now has no screen yet.
    const process = lstatSync(path).isSymbolicLink() && /^\/proc\/\d+/.exec(readlinkSync(path))?.[0];
    if (process && !existsSync(process)) rmSync(path);
  }
  for (let number = FIRST_DISPLAY; ; number++) {
    try {
      // Taken at once, so that two who look in the same moment find two.
      symlinkSync('/nowhere-yet', join(X_SOCKETS, `X${number}`));
      return number;
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
    }
  }
}
