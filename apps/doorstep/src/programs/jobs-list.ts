import type { ProgramRow } from '@porch/core';
import type { ProgramReading } from '@porch/host';
import { existsSync, readdirSync } from 'node:fs';
import { z } from 'zod';
import { runCommand } from '../system/run-command.ts';
import { hasSystemd } from '../system/systemd.ts';
import { short, textOf } from '../system/text-of.ts';
import { withoutSecrets } from './processes-list.ts';
import { managers, parsedList, type Manager } from './services-list.ts';

const MAX_COMMAND_CHARS = 400;
/** Microseconds since 1970; nothing for what never comes, or never was. */
const Moment = z.union([z.number(), z.null()]).optional();
const Timers = z.array(
  z.looseObject({
    unit: z.string().nullable(),
    activates: z.string().nullable().optional(),
    next: Moment,
    last: Moment,
  }),
);
const msOf = (usec: z.infer<typeof Moment>): number | undefined =>
  typeof usec === 'number' && usec > 0 && usec < 8.64e18 ? Math.floor(usec / 1_000) : undefined;

/** systemctl(1), `list-timers --output=json`. */
export function timersOf(json: string, whose: Manager): ProgramRow<'jobs'>[] {
  return parsedList(Timers, json).flatMap(({ unit, activates, next, last }) => {
    if (!unit) return [];
    const [nextAtMs, lastAtMs] = [msOf(next), msOf(last)];
    return {
      ...{ id: `${whose}/${unit}`.slice(0, 160), name: short(unit.replace(/\.timer$/, '')), when: 'systemd' },
      ...(nextAtMs === undefined ? {} : { nextAtMs }),
      ...(lastAtMs === undefined ? {} : { lastAtMs }),
      ...{ whose, runs: (activates ?? '').slice(0, MAX_COMMAND_CHARS) },
    };
  });
}

const line = /^\s*(?<when>@\w+|(?:\S+\s+){4}\S+)\s+(?<rest>\S.*)$/;
/** crontab(5). `hasAccount`: after when it runs stands as whom. */
export function crontabOf(text: string, name: string, whose: Manager, hasAccount: boolean): ProgramRow<'jobs'>[] {
  return text.split('\n').flatMap((raw, at) => {
    if (/^\s*(#|$)|^\s*[A-Za-z_][\w]*\s*=/.test(raw)) return [];
    const { when = '', rest = '' } = line.exec(raw)?.groups ?? {};
    const runs = hasAccount ? rest.replace(/^\S+\s+/, '') : rest;
    if (!runs) return [];
    return {
      ...{ id: `${name}:${at}`.slice(0, 160), name: short(name), when: short(when.replace(/\s+/g, ' ')), whose },
      runs: withoutSecrets(runs).slice(0, MAX_COMMAND_CHARS),
    };
  });
}

function cronOfTheComputer(): ProgramRow<'jobs'>[] {
  const folder = '/etc/cron.d';
  const files = existsSync(folder) ? readdirSync(folder).filter((name) => /^[\w-]+$/.test(name)) : [];
  return ['/etc/crontab', ...files.map((name) => `${folder}/${name}`)].flatMap((path) =>
    crontabOf(textOf(path) ?? '', path, 'computer', true),
  );
}

/** What runs by itself at its hour: timers, and what cron knows. */
export class JobsList implements ProgramReading<'jobs'> {
  async read(signal: AbortSignal): Promise<ProgramRow<'jobs'>[]> {
    const timers = async (whose: Manager) =>
      hasSystemd()
        ? timersOf(
            await runCommand(
              'systemctl',
              [...managers[whose], 'list-timers', '--all', '--output=json', '--no-pager'],
              signal,
            ),
            whose,
          )
        : [];
    const own = existsSync('/usr/bin/crontab') ? await runCommand('crontab', ['-l'], signal) : '';
    const [computer, person] = await Promise.all([timers('computer'), timers('person')]);
    return [...computer, ...person, ...cronOfTheComputer(), ...crontabOf(own, 'crontab', 'person', false)];
  }
}
