import { execFileSync, spawnSync } from 'node:child_process';
import { chmodSync, chownSync, existsSync, lstatSync, mkdirSync, readdirSync } from 'node:fs';
import { join } from 'node:path';

/** Who somebody's programs run as. */
export interface Account {
  readonly uid: number;
  readonly gid: number;
}

export const X_SOCKETS = '/tmp/.X11-unix';

/**
 * An ordinary account for a customer of the demo, made when it is missing: nobody who is helped works as root. Undefined
 * where we are an ordinary account ourselves, and everything runs as us.
 */
export function ordinaryAccount(login: string): Account | undefined {
  if (process.getuid?.() !== 0) return undefined;
  const id = (flag: '-u' | '-g') => Number(execFileSync('id', [flag, login], { encoding: 'utf8' }));
  if (spawnSync('id', [login]).status !== 0)
    execFileSync('useradd', ['--system', '--no-create-home', '--shell', '/usr/sbin/nologin', login]);
  // Whoever starts the first X server of a machine makes this; an ordinary account may not.
  ensureFolderForAll(X_SOCKETS);
  return { uid: id('-u'), gid: id('-g') };
}

/** A folder in which every account may make things and take away only its own, like the one for things that do not last. */
export function ensureFolderForAll(path: string): void {
  if (existsSync(path)) return;
  mkdirSync(path);
  // Not as the mode of `mkdir`: what the process forbids its files at first would be taken off it.
  chmodSync(path, 0o1777);
}

/** Gives a folder, with all that is in it, to an account. */
export function giveTo({ uid, gid }: Account, path: string): void {
  chownSync(path, uid, gid);
  if (lstatSync(path).isDirectory()) for (const name of readdirSync(path)) giveTo({ uid, gid }, join(path, name));
}

/** Whether an account can run a script with this very Node: a checkout in somebody's home is not for everybody to read. */
export const canRun = (account: Account | undefined, script: string): boolean =>
  account === undefined ||
  spawnSync(process.execPath, ['-e', 'require("fs").readFileSync(process.argv[1])', script], { ...account }).status ===
    0;
