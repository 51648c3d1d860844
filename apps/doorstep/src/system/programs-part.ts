import { MAX_CHANGES, type PartOf, type ProgramChange } from '@porch/core';
import { PartMissing } from '@porch/host';
import { short, endOf, textOf } from './text-of.ts';
import { runCommand } from './run-command.ts';

const LOGS = ['/var/log/dpkg.log', '/var/log/dpkg.log.1'];
const MAX_LOG_BYTES = 2 * 1024 * 1024;
const NONE = '<none>';
const line =
  /^(?<day>\d{4}-\d\d-\d\d) (?<time>\d\d:\d\d:\d\d) (?<act>install|upgrade|remove|purge) (?<name>[^\s:]+)(?::\S+)? (?<from>\S+) (?<to>\S+)$/;

/** What was put there, changed or taken away, by dpkg's own log: the last first. Its moments are in the computer's own time. */
export function changesIn(log: string): ProgramChange[] {
  const changes: ProgramChange[] = [];
  for (const text of log.split('\n').reverse()) {
    if (changes.length >= MAX_CHANGES) break;
    const { day, time, act, name = '', from = NONE, to = NONE } = line.exec(text)?.groups ?? {};
    // What is removed stays known with its settings: its purge is no change of programs.
    if (act === undefined || (act === 'purge' && to === NONE && from === NONE)) continue;
    const atMs = new Date(`${day}T${time}`).getTime();
    const isGone = act === 'remove' || act === 'purge';
    if (Number.isNaN(atMs) || (isGone && from === NONE)) continue;
    changes.push({
      name: short(name),
      ...(from === NONE ? {} : { from: short(from) }),
      ...(isGone || to === NONE ? {} : { to: short(to) }),
      atMs,
    });
  }
  return changes;
}

/** How many packages are there whole (dpkg's own file of them). */
export const installedIn = (status: string): number => (status.match(/^Status: install ok installed$/gm) ?? []).length;

/** dpkg's own log, as far as it reaches, the last of it at its end. */
export const packageLog = (): string =>
  LOGS.toReversed()
    .map((log) => endOf(log, MAX_LOG_BYTES))
    .join('\n');

export function readPrograms(): PartOf<'programs'> {
  const status = textOf('/var/lib/dpkg/status');
  if (status === undefined) throw new PartMissing('not-there');
  const changes = changesIn(packageLog());
  const [last] = changes;
  return { count: installedIn(status), ...(last ? { updatedAtMs: last.atMs } : {}), changes };
}

/** What apt would do, without doing it (apt-get(8), `--simulate`); whatever the person works at comes before it. */
export function updatesIn(simulated: string): PartOf<'updates'> {
  const lines = simulated.match(/^Inst .*$/gm) ?? [];
  return { pending: lines.length, security: lines.filter((one) => /[ ,/]\S*security/i.test(one)).length };
}
export const readUpdates = async (signal: AbortSignal): Promise<PartOf<'updates'>> =>
  updatesIn(
    await runCommand(
      'nice',
      ['-n', '19', 'apt-get', '--simulate', '-o', 'Debug::NoLocking=true', 'dist-upgrade'],
      signal,
    ),
  );
