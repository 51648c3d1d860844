import type { LeftAsItIs } from '@porch/core';
import { chmod, copyFile, mkdir, rename, rm, rmdir, symlink, utimes } from 'node:fs/promises';
import { dirname, join, relative } from 'node:path';
import { managers, type Manager } from '../programs/services-list.ts';
import { runToItsEnd } from '../system/run-command.ts';
import type { OtherPlace, OtherService } from './point-differences.ts';
import { actsFor } from './service-states.ts';

/** While it is written a file has this ending; what broke off is gone with the next try. */
const HALF = '.zesty-porch-half';

type Why = LeftAsItIs['why'];
const whyOf = (error: unknown): Why => {
  const { code } = error as NodeJS.ErrnoException;
  return code === 'EACCES' || code === 'EPERM' || code === 'EROFS' ? 'no-rights' : 'failed';
};

/**
 * Makes each place what it was: what came goes, the deepest first; what went or changed is put back, folders before what is
 * in them. A file is written beside its place and takes it in one step. Answers what could not be.
 */
export async function takeBackPlaces(
  others: readonly OtherPlace[],
  { copies, home, may, signal }: { copies: string; home: string; may: () => boolean; signal: AbortSignal },
): Promise<LeftAsItIs[]> {
  const left: LeftAsItIs[] = [];
  const each = async (places: readonly OtherPlace[], act: (place: OtherPlace) => Promise<void>) => {
    for (const place of places) {
      const why = signal.aborted || !may() ? 'broken-off' : await act(place).then(() => undefined, whyOf);
      if (why) left.push({ what: 'file', name: relative(home, place.path).slice(0, 400), why });
    }
  };
  const deepFirst = others.toSorted((a, b) => b.path.length - a.path.length || (a.path < b.path ? 1 : -1));
  const isThereNow = ({ now }: OtherPlace) => now !== undefined && now.kind !== 'nothing';
  const isInTheWay = (place: OtherPlace) => {
    const { was, now } = place;
    if (!isThereNow(place)) return false;
    if (!was || was.kind === 'nothing') return true;
    return (was.kind === 'folder') !== (now?.kind === 'folder') || was.kind === 'link';
  };
  await each(deepFirst.filter(isInTheWay), ({ path, now }) => (now?.kind === 'folder' ? rmdir(path) : rm(path)));
  const back = deepFirst.toReversed().filter(({ was }) => was !== undefined && was.kind !== 'nothing');
  await each(back, (place) => putBack(place, copies));
  return left;
}

async function putBack({ path, was }: OtherPlace, copies: string): Promise<void> {
  if (was?.kind === 'folder') {
    await mkdir(path, { recursive: true });
    await chmod(path, was.mode);
  } else if (was?.kind === 'link') await symlink(was.to, path);
  else if (was?.kind === 'file') {
    const half = `${path}${HALF}`;
    await mkdir(dirname(path), { recursive: true });
    await rm(half, { force: true });
    try {
      await copyFile(join(copies, was.copy), half);
      await chmod(half, was.mode);
      await utimes(half, was.mtimeMs / 1_000, was.mtimeMs / 1_000);
      await rename(half, path);
    } catch (error) {
      await rm(half, { force: true });
      throw error;
    }
  }
}

/** Makes services run, and begin, as they did. */
export async function takeBackServices(
  others: readonly OtherService[],
  may: () => boolean,
  signal: AbortSignal,
): Promise<LeftAsItIs[]> {
  const left: LeftAsItIs[] = [];
  for (const { was, now } of others) {
    const [whose = '', unit = ''] = was.id.split('/', 2);
    const acts = actsFor({
      ...(now?.begins === was.begins ? {} : { begins: was.begins }),
      ...(now?.runs === was.runs ? {} : { runs: was.runs }),
    });
    let why: Why | undefined = now ? undefined : 'failed';
    for (const act of now ? acts : []) {
      if (signal.aborted || !may()) why = 'broken-off';
      else {
        const args = [...managers[whose as Manager], '--no-ask-password', '--no-pager', act, '--', unit];
        const { code, wrong } = await runToItsEnd('systemctl', args, signal);
        if (code !== 0) why = /authentication|denied|permitted/i.test(wrong) ? 'no-rights' : 'failed';
      }
      if (why) break;
    }
    if (why) left.push({ what: 'service', name: was.name, why });
  }
  return left;
}
