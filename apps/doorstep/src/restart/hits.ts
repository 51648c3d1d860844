import type { HitFound } from '@porch/host';
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { FIRST_PERSON } from '../system/accounts.ts';
import { runCommand } from '../system/run-command.ts';
import type { Logind } from '../system/logind.ts';

const PACKAGE_LOCKS = ['/var/lib/dpkg/lock-frontend', '/var/lib/dpkg/lock', '/var/lib/rpm/.rpm.lock'];
const LOCKS = '/proc/locks';
const CRYPTTAB = '/etc/crypttab';
const POWER = '/sys/class/power_supply';
const LOW_PERCENT = 15;
const MAX_JOBS = 200;

const textOf = (file: string): string => (existsSync(file) ? readFileSync(file, 'utf8').trim() : '');

/** Windows whose title says that something in them is not saved, as editors write it. */
export const unsavedOf = (titles: readonly string[]): string[] =>
  titles.filter((title) =>
    /^[*•●]|\*$|\[(?:modified|geändert|endret)\]|\((?:modified|geändert|endret)\)/i.test(title.trim()),
  );

export function unsaved(titles: readonly string[]): HitFound[] {
  const names = unsavedOf(titles);
  return names.length ? [{ hit: 'unsaved', count: names.length, names }] : [];
}

/** Whether packages are being installed: somebody holds a lock of theirs (proc(5), `/proc/locks`). */
export function packages(locks = textOf(LOCKS)): HitFound[] {
  const held = new Set(locks.split('\n').flatMap((line) => / [0-9a-f]+:[0-9a-f]+:(\d+) /.exec(line)?.[1] ?? []));
  const isHeld = PACKAGE_LOCKS.some((file) => existsSync(file) && held.has(String(statSync(file).ino)));
  return isHeld ? [{ hit: 'packages' }] : [];
}

/** Others who are signed in, and who asks that the computer stays up. */
export async function others(logind: Logind, uid: number): Promise<HitFound[]> {
  const sessions = (await logind.sessions()).filter((one) => one.uid !== uid && one.uid >= FIRST_PERSON);
  const states = await Promise.all(sessions.map((one) => logind.about(one, 'State')));
  const there = new Set(sessions.filter((_, i) => states[i] !== 'closing').map((one) => one.account));
  const holds = [...new Set(await logind.holds())];
  return [
    ...(there.size ? [{ hit: 'others', count: there.size } as const] : []),
    ...(holds.length ? [{ hit: 'holds', count: holds.length, names: holds } as const] : []),
  ];
}

/** Print jobs that are not finished. */
export async function prints(signal: AbortSignal): Promise<HitFound[]> {
  const listed = await runCommand('lpstat', ['-o'], signal).catch(() => '');
  const count = listed.split('\n').filter(Boolean).slice(0, MAX_JOBS).length;
  return count ? [{ hit: 'prints', count }] : [];
}

/** Whether it waits at its start for somebody who unlocks a disk (crypttab(5)). */
export function diskKey(crypttab = readable(CRYPTTAB)): HitFound[] {
  const isAsked = crypttab
    .split('\n')
    .map((line) => line.trim().split(/\s+/))
    .some(([name = '', , key = 'none', options = '']) => {
      if (!name || name.startsWith('#')) return false;
      const needsSomebody = /fido2-device|pkcs11-uri|tpm2-pin=(?:yes|true)/.test(options);
      return needsSomebody || ((key === 'none' || key === '-') && !/tpm2-device/.test(options));
    });
  return isAsked ? [{ hit: 'disk-key' }] : [];
}
function readable(file: string): string {
  try {
    return textOf(file);
  } catch {
    return ''; // Only an administrator may read it: then it is not known.
  }
}

/** A battery that is almost empty, and nothing that loads it. */
export function battery(folder = POWER): HitFound[] {
  if (!existsSync(folder)) return [];
  const supplies = readdirSync(folder).map((name) => {
    const of = (what: string) => textOf(join(folder, name, what));
    return {
      type: of('type'),
      percent: Number(of('capacity') || 100),
      isOnline: of('online') === '1',
      scope: of('scope'),
    };
  });
  const isLoaded = supplies.some(({ type, isOnline }) => type !== 'Battery' && isOnline);
  const isLow = supplies.some(
    ({ type, percent, scope }) => type === 'Battery' && scope !== 'Device' && percent < LOW_PERCENT,
  );
  return isLow && !isLoaded ? [{ hit: 'battery' }] : [];
}

const LIGHTDM = ['/etc/lightdm/lightdm.conf.d', '/etc/lightdm/lightdm.conf'];
/** Whether the sign-in screen signs this account in by itself at each start. */
export function signsInByItself(account: string): boolean {
  const [folder = '', main = ''] = LIGHTDM;
  const files = [
    ...(existsSync(folder)
      ? readdirSync(folder)
          .sort()
          .map((name) => join(folder, name))
      : []),
    main,
  ];
  const said = files.flatMap((file) => /^\s*autologin-user\s*=\s*(\S+)/m.exec(readable(file))?.[1] ?? []).at(-1);
  return said === account;
}
