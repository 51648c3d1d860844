import { readdirSync, statSync } from 'node:fs';
import { textOf } from './text-of.ts';

export const TICKS_A_SECOND = 100;
const PAGE_BYTES = 4_096;
/** Of those behind the name, as many as are read. */
const FIELDS = 22;
const MAX_PROCESSES = 30_000;
/** So many are looked at in one turn: keys do not wait for them. */
const AT_ONCE = 100;

export interface Process {
  readonly pid: number;
  readonly parent: number;
  readonly name: string;
  /** One letter, as proc(5) has it. */
  readonly state: string;
  readonly ticks: number;
  readonly startedTicks: number;
  readonly memoryBytes: number;
}

/** proc(5), `stat` of a process: its name may hold anything, brackets too. */
export function processOf(stat: string): Process | undefined {
  const [open, close] = [stat.indexOf('('), stat.lastIndexOf(')')];
  if (open < 0 || close < open) return undefined;
  const fields = stat.slice(close + 2).split(' ', FIELDS);
  if (fields.length < FIELDS) return undefined;
  const number = (at: number) => Number(fields[at]);
  const found = {
    pid: Number.parseInt(stat, 10),
    parent: number(1),
    name: stat.slice(open + 1, close),
    state: fields[0] ?? '?',
    ticks: number(11) + number(12),
    startedTicks: number(19),
    memoryBytes: number(21) * PAGE_BYTES,
  };
  const { pid, parent, ticks, startedTicks, memoryBytes } = found;
  return [pid, parent, ticks, startedTicks, memoryBytes].every(Number.isFinite) ? found : undefined;
}

/** By when it began, too: a number that was given to another process since names nothing. */
export const idOfProcess = ({ pid, startedTicks }: Pick<Process, 'pid' | 'startedTicks'>): string =>
  `${pid}.${startedTicks}`;

/** All that run, kernel threads too. */
export async function readProcessTable(signal: AbortSignal): Promise<Process[]> {
  const pids = readdirSync('/proc').filter((name) => /^\d+$/.test(name));
  const processes: Process[] = [];
  for (let at = 0; at < Math.min(pids.length, MAX_PROCESSES); at += AT_ONCE) {
    for (const pid of pids.slice(at, at + AT_ONCE)) {
      const found = processOf(textOf(`/proc/${pid}/stat`) ?? '');
      if (found) processes.push(found);
    }
    await new Promise((resolve) => setImmediate(resolve));
    signal.throwIfAborted();
  }
  return processes;
}

export const upTicks = (): number => Number(textOf('/proc/uptime')?.split(' ')[0] ?? 0) * TICKS_A_SECOND;

/** The account of a process; undefined for one that is gone. */
export function accountOf(pid: number): number | undefined {
  try {
    return statSync(`/proc/${pid}`).uid;
  } catch {
    return undefined;
  }
}
const FIRST_PERSON = 1_000;
const NOBODY = 65_534;
/** Whose something is, by the account (the ranges of Debian's policy, 9.2). */
export function whoseIs(uid: number | undefined): 'person' | 'others' | 'computer' {
  if (uid !== undefined && uid === process.getuid?.()) return 'person';
  return uid !== undefined && uid >= FIRST_PERSON && uid !== NOBODY ? 'others' : 'computer';
}

/** Those that are above one, up to the first process of all. */
export function ancestorsOf(pid: number, byPid: ReadonlyMap<number, Process>): Set<number> {
  const found = new Set<number>();
  for (let at = byPid.get(pid); at && !found.has(at.pid); at = byPid.get(at.parent)) found.add(at.pid);
  return found;
}
/** Those that are below one, however deep. */
export function descendantsOf(pid: number, processes: readonly Process[]): Process[] {
  const found: Process[] = [];
  const within = new Set([pid]);
  // A process may be listed before the one that began it.
  for (let isMore = true; isMore;) {
    const next = processes.filter((one) => within.has(one.parent) && !within.has(one.pid));
    isMore = next.length > 0;
    for (const one of next) {
      within.add(one.pid);
      found.push(one);
    }
  }
  return found;
}
