import { CommandLineRefused } from '@porch/host';
import { accessSync, constants, readFileSync } from 'node:fs';
import { stat } from 'node:fs/promises';
import { userInfo } from 'node:os';
import { isAbsolute, join } from 'node:path';

/** The programs that an account may have as its command line (shells(5)). */
const SHELLS = '/etc/shells';

/** The command line of this account. Throws CommandLineRefused where it has none: one that may not sign in to it. */
export function ownShell(shell = userInfo().shell, shells = SHELLS): string {
  try {
    const allowed = readFileSync(shells, 'utf8').split('\n');
    if (shell && allowed.includes(shell)) {
      accessSync(shell, constants.X_OK);
      return shell;
    }
  } catch {
    // Said below: it is not there, or nothing says that it may be used.
  }
  throw new CommandLineRefused('this account has no command line');
}

/** A folder that is there, from home on. */
export async function folderFrom(home: string, folder: string): Promise<string> {
  const path = isAbsolute(folder) ? folder : join(home, folder.replace(/^~(\/|$)/, ''));
  const isFolder = await stat(path).then(
    (found) => found.isDirectory(),
    () => false,
  );
  if (!isFolder) throw new CommandLineRefused('there is no such folder');
  return path;
}
