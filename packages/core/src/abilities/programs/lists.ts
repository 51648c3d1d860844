import { z } from 'zod';

/*
 * What runs, is installed and waits for its hour on a computer, in rows. Texts are short and lists bounded: a computer may
 * say anything. Whose something is stands there as one of three, never as a name.
 */
const text = z.string().max(120);
const longText = z.string().max(400);
const rowId = z.string().min(1).max(160);
const bytes = z.number().min(0).max(Number.MAX_SAFE_INTEGER);
const moment = z.number().min(0).max(8.64e15);
const Whose = z.enum(['person', 'others', 'computer']);

/** The most rows of one list; what is more is left out, and it is said so. */
export const MAX_PROGRAM_ROWS = 20_000;

/** Why nobody ends or changes it from here: it is ours, the session or the computer hangs on it, the desk rules so. */
export const Guard = z.enum(['ours', 'needed', 'policy']);
export type Guard = z.infer<typeof Guard>;

export const programLists = {
  processes: z.strictObject({
    id: rowId,
    name: text,
    pid: z.int().min(1).max(4_294_967_295),
    /** Of a core, since the list was read before; since it began the first time. */
    cpuPercent: z.number().min(0).max(100_000),
    memoryBytes: bytes,
    whose: Whose,
    state: z.enum(['working', 'waiting', 'stuck', 'stopped', 'ended']),
    startedAtMs: moment,
    /** What it was started with; what looks like a password is left out. */
    startedAs: longText,
    guard: Guard.optional(),
  }),
  services: z.strictObject({
    id: rowId,
    name: text,
    about: text,
    state: z.enum(['running', 'done', 'stopped', 'failed', 'starting', 'stopping']),
    begins: z.enum(['by-itself', 'by-hand', 'when-needed', 'never', 'unknown']),
    whose: Whose,
    guard: Guard.optional(),
  }),
  entries: z.strictObject({
    id: rowId,
    atMs: moment,
    weight: z.enum(['urgent', 'error', 'warning', 'notice', 'info', 'detail']),
    from: text,
    text: longText,
  }),
  installed: z.strictObject({
    id: rowId,
    name: text,
    version: text,
    changedAtMs: moment.optional(),
    sizeBytes: bytes.optional(),
    about: text,
  }),
  ports: z.strictObject({
    id: rowId,
    protocol: z.enum(['tcp', 'udp']),
    address: text,
    port: z.int().min(0).max(65_535),
    reach: z.enum(['everybody', 'this-computer']),
    /** Missing: it belongs to another account. */
    by: text.optional(),
  }),
  jobs: z.strictObject({
    id: rowId,
    name: text,
    when: text,
    nextAtMs: moment.optional(),
    lastAtMs: moment.optional(),
    whose: Whose,
    runs: longText,
  }),
} as const;

export type ProgramList = keyof typeof programLists;
export const programListNames = Object.keys(programLists) as [ProgramList, ...ProgramList[]];
export type ProgramRow<L extends ProgramList = ProgramList> = z.infer<(typeof programLists)[L]>;

/** What can be done to a row of a list, by its name. */
export const programActs = {
  processes: ['end', 'end-at-once'],
  services: ['start', 'stop', 'restart', 'disable', 'enable'],
} as const;
export type ProgramAct = (typeof programActs)['processes' | 'services'][number];
export const ProgramAct = z.enum([...programActs.processes, ...programActs.services]);
/** Whether an act is about a service, and not about a process. */
export const isOfService = (act: ProgramAct): boolean => (programActs.services as readonly string[]).includes(act);
/** Whether it is about a service of the computer, and not about one of the person's own. */
export const isOfComputer = (act: ProgramAct, target: string): boolean =>
  isOfService(act) && target.startsWith('computer/');
/** Whether something may stop working by it. */
export const takesAway = (act: ProgramAct): boolean => act !== 'start' && act !== 'enable';

/** What such an act is called where the desk is asked for leave. */
export const riskNameOf = (act: ProgramAct): string => risks[act];
const risks: Readonly<Record<ProgramAct, string>> = {
  end: 'programs/end',
  'end-at-once': 'programs/end-at-once',
  start: 'programs/start',
  stop: 'programs/stop',
  restart: 'programs/restart',
  disable: 'programs/disable',
  enable: 'programs/enable',
};

/** What became of an act. */
export const ProgramOutcome = z.enum(['done', 'no-rights', 'gone', 'took-too-long', 'broken-off', 'failed']);
export type ProgramOutcome = z.infer<typeof ProgramOutcome>;

/** Whether a name is meant by a row of the desk's list of what is never touched: `*` stands for anything, case is nothing. */
export function isNamedIn(patterns: readonly string[], name: string): boolean {
  const bare = name.toLowerCase().replace(/\.service$/, '');
  return patterns.some((pattern) => {
    const parts = pattern
      .toLowerCase()
      .replace(/\.service$/, '')
      .split('*');
    const [first = '', ...rest] = parts;
    const last = rest.pop();
    if (last === undefined) return bare === first;
    if (bare.length < first.length + last.length || !bare.startsWith(first) || !bare.endsWith(last)) return false;
    let at = first.length;
    const end = bare.length - last.length;
    for (const part of rest) {
      const found = bare.indexOf(part, at);
      if (found < 0 || found + part.length > end) return false;
      at = found + part.length;
    }
    return true;
  });
}
