import { isOfService, takesAway, type ProgramAct, type ProgramOutcome } from '@porch/core';
import { PartMissing, type ActPlan } from '@porch/host';
import { runCommand, runToItsEnd } from '../system/run-command.ts';
import { short, textOf } from '../system/text-of.ts';
import { guardsOf, isNeededService } from './guards.ts';
import { descendantsOf, idOfProcess, processOf, readProcessTable } from '../system/process-table.ts';
import { needSystemd } from '../system/systemd.ts';
import { managers, type Manager } from './services-list.ts';

type Acted = { readonly outcome: ProgramOutcome; readonly says: string };
/** Levels of services that need each other. */
const MAX_DEPTH = 4;
const MAX_HANGING = 200;
/** How often, and how long, it is looked whether a process that was asked to end did. */
const LOOK_MS = 50;
const ENDS_MS = 5_000;

async function planForProcess(act: ProgramAct, target: string, signal: AbortSignal): Promise<ActPlan> {
  const processes = await readProcessTable(signal);
  const one = processes.find((process) => idOfProcess(process) === target);
  if (!one) throw new PartMissing('not-there');
  const guard = guardsOf(processes).get(one.pid);
  const { pid } = one;
  const isThere = () => {
    const now = processOf(textOf(`/proc/${pid}/stat`) ?? '');
    return now !== undefined && now.state !== 'Z' && idOfProcess(now) === target;
  };
  return {
    name: short(one.name),
    ...(guard ? { guard } : {}),
    hanging: descendantsOf(pid, processes).map(({ name }) => short(name)),
    services: [],
    wakers: [],
    async act(may, ends): Promise<Acted> {
      // Looked at and ended in one turn: its number cannot become another's between the two.
      if (!may()) return { outcome: 'broken-off', says: '' };
      if (!isThere()) return { outcome: 'gone', says: '' };
      try {
        process.kill(pid, act === 'end-at-once' ? 'SIGKILL' : 'SIGTERM');
      } catch (error) {
        const { code } = error as NodeJS.ErrnoException;
        return { outcome: code === 'EPERM' ? 'no-rights' : code === 'ESRCH' ? 'gone' : 'failed', says: '' };
      }
      for (let waitedMs = 0; waitedMs < ENDS_MS && !ends.aborted; waitedMs += LOOK_MS) {
        if (!isThere()) return { outcome: 'done', says: '' };
        await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
      }
      return { outcome: isThere() ? 'took-too-long' : 'done', says: '' };
    },
  };
}

const unitName = /^[A-Za-z0-9:_.\\@][A-Za-z0-9:_.\\@-]*\.service$/;
const PROPERTIES = [
  'Id',
  'LoadState',
  'ActiveState',
  'RequiredBy',
  'BoundBy',
  'RequisiteOf',
  'ConsistsOf',
  'TriggeredBy',
];

type Properties = Readonly<Record<string, string>>;
async function propertiesOf(units: readonly string[], whose: Manager, signal: AbortSignal): Promise<Properties[]> {
  const out = await runCommand(
    'systemctl',
    [...managers[whose], 'show', `--property=${PROPERTIES.join(',')}`, '--no-pager', '--', ...units],
    signal,
  );
  return out
    .split('\n\n')
    .filter((block) => block.trim())
    .map((block) =>
      Object.fromEntries(block.split('\n').map((row) => [row.split('=', 1)[0], row.slice(row.indexOf('=') + 1)])),
    );
}
const listIn = (properties: Properties, ...names: string[]): string[] =>
  names.flatMap((name) => (properties[name] ?? '').split(' ').filter(Boolean));

/** Those that stop with a service, however far away (systemd.unit(5): what requires it, is bound to it, or is part of it). */
async function hangingOn(first: Properties, whose: Manager, signal: AbortSignal): Promise<string[]> {
  const found = new Set<string>();
  let level = [first];
  for (let depth = 0; depth < MAX_DEPTH && level.length && found.size < MAX_HANGING; depth++) {
    const next = level
      .flatMap((one) => listIn(one, 'RequiredBy', 'BoundBy', 'RequisiteOf', 'ConsistsOf'))
      .filter((unit) => !found.has(unit) && unit !== first['Id']);
    if (!next.length) break;
    const known = await propertiesOf([...new Set(next)].slice(0, MAX_HANGING), whose, signal);
    level = known.filter(({ ActiveState: state }) => state === 'active' || state === 'activating');
    for (const { Id: unit } of level) if (unit) found.add(unit);
  }
  // A target is a name for many others, and nothing that runs.
  return [...found].filter((unit) => !unit.endsWith('.target'));
}
const nameOfUnit = (unit: string): string => short(unit.replace(/\.service$/, ''));

function actedIn({ code, wrong }: { code: number; wrong: string }): Acted {
  const says = wrong.trim().split('\n').at(-1)?.trim() ?? '';
  if (code === 0) return { outcome: 'done', says: '' };
  if (/authentication|access denied|permission denied|not permitted/i.test(wrong))
    return { outcome: 'no-rights', says };
  return { outcome: /not (be )?found|not loaded|no such/i.test(wrong) ? 'gone' : 'failed', says };
}

async function planForService(act: ProgramAct, target: string, signal: AbortSignal): Promise<ActPlan> {
  needSystemd();
  const [whose = '', unit = ''] = target.split('/', 2);
  if (!Object.hasOwn(managers, whose) || !unitName.test(unit)) throw new PartMissing('not-there');
  const manager = whose as Manager;
  const [properties] = await propertiesOf([unit], manager, signal);
  if (!properties || properties['LoadState'] === 'not-found') throw new PartMissing('not-there');
  const doesStop = act === 'stop' || act === 'restart';
  const hanging = doesStop ? await hangingOn(properties, manager, signal) : [];
  return {
    name: nameOfUnit(unit),
    ...(takesAway(act) && isNeededService(unit) ? { guard: 'needed' as const } : {}),
    hanging: hanging.map(nameOfUnit),
    services: [unit, ...hanging].filter((one) => one.endsWith('.service')).map((one) => `${manager}/${one}`),
    wakers: act === 'stop' ? listIn(properties, 'TriggeredBy').map(short) : [],
    async act(may, ends): Promise<Acted> {
      if (!may()) return { outcome: 'broken-off', says: '' };
      const args = [...managers[manager], '--no-ask-password', '--no-pager', act, '--', unit];
      return actedIn(await runToItsEnd('systemctl', args, ends));
    },
  };
}

/** What an act would hit, and how it is done. */
export const planFor = (act: ProgramAct, target: string, signal: AbortSignal): Promise<ActPlan> =>
  (isOfService(act) ? planForService : planForProcess)(act, target, signal);
