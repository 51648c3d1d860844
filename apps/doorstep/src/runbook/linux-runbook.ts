import { PointRefused, RunRefused, type RunbookPort } from '@porch/host';
import { randomUUID } from 'node:crypto';
import { lstat, mkdir, rename, rm, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { placeWithin } from '../safe-points/place-within.ts';
import { hasScopes } from '../runs/end-run.ts';
import type { RunGuard } from '../runs/run-guard.ts';
import { readerOf, runScript } from './run-script.ts';

export interface LinuxRunbookParts {
  readonly home: string;
  /** Folders of Doorstep's own: nothing is put there. */
  readonly own: readonly string[];
  readonly guard: RunGuard;
}

const PRIVATE = 0o600;

/** Runs scripts and puts files under Linux, with the rights of the person's own account. */
export function linuxRunbook({ home, own, guard }: LinuxRunbookParts): RunbookPort {
  return {
    platform: 'linux',
    howRun: (script) => Promise.resolve({ command: [readerOf(script), 'script'], folder: home, mayGoOn: !hasScopes() }),
    run: (script, may, print, signal) => runScript(script, { home, guard }, { may, print, signal }),
    async whereTo(target) {
      const path = await placeOf(target, home, own);
      return { path, isThere: (await whatIsThere(path)) !== undefined };
    },
    async put(target, text, may, signal) {
      const path = await placeOf(target, home, own);
      const there = await whatIsThere(path);
      await mkdir(dirname(path), { recursive: true, mode: 0o700 });
      // Beside it first: whoever reads it finds the old one or the new one, whole.
      const beside = join(dirname(path), `.doorstep-${randomUUID()}`);
      try {
        await writeFile(beside, text, { mode: there?.isFile() ? there.mode & 0o777 : PRIVATE, flag: 'wx', signal });
        if (!may()) throw new RunRefused('the customer has not allowed it');
        await rename(beside, path);
      } finally {
        await rm(beside, { force: true });
      }
    },
  };
}

async function placeOf(target: string, home: string, own: readonly string[]): Promise<string> {
  try {
    return await placeWithin(home, target, own);
  } catch (error) {
    throw error instanceof PointRefused ? new RunRefused(error.message) : error;
  }
}

async function whatIsThere(path: string) {
  try {
    const there = await lstat(path);
    if (there.isDirectory()) throw new RunRefused('a folder is there already');
    return there;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return undefined;
    throw error;
  }
}
