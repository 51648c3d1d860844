import { execFile } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { chownSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import {
  TechnicianPrograms,
  TechnicianReports,
  TechnicianSafePoints,
  type LiveConnection,
  type WatchedList,
} from '@porch/client';
import { reportPartNames, type SystemReport } from '@porch/core';
import { passwordOf, whyNoComputers, type XDesktop } from '@porch/demo';
import { allow } from './allow.ts';
import { desktopsRows } from './desktops-bench.ts';
import { commandLineRows } from './command-line-bench.ts';
import { BenchHouse, sleep, until } from './bench-house.ts';
import { KEYS_NEED } from './key-timer.ts';
import { measured, printRows } from './measured.ts';
import { quantile } from './numbers.ts';
import { printsRows } from './prints-bench.ts';
import { restartRows } from './restart-bench.ts';
import { rightsRows } from './rights-bench.ts';
import type { Row } from './row.ts';

/** The account of whom the bench's computer belongs to. */
const THEIRS = 4161;
const REPORTS = 5;
/** Doorstep reads none sooner after another. */
const PAUSE_MS = 1_200;

const ASKED = [
  'read-system-report',
  'inspect-programs',
  'make-safe-points',
  'use-command-line',
  'raise-rights',
  'run-runbook',
  'restart-computer',
  'take-prints',
  'call-desktops',
  'view-screen',
  KEYS_NEED,
] as const;

/** How soon what helps to fix is there, on a whole computer. */
export async function fixingBench(options: { json?: boolean; only?: string }): Promise<void> {
  const missing = whyNoComputers();
  if (missing !== undefined) throw new Error(`there are no computers to measure on: ${missing}`);
  const house = await BenchHouse.openWithTickets();
  try {
    const rest = await house.signedIn();
    const started = await rest.start({ ticketRef: 'MF-201' });
    const { link } = await rest.invite(started.session.id, { way: 'ticket-comment' });
    const technician = await house.technician(rest, started.session.id);
    const { desktop, person } = await house.withComputer(link);
    await until('the session', () => technician.state.phase.name === 'live');
    for (const permission of ASKED) await allow(technician, permission, () => person.answer(true, 1_200));
    const { computer } = desktop;
    const toolMs = await yardstickMs(desktop);
    const parts = [
      ['system report', () => reportRows(technician, toolMs)],
      ...(computer ? [['processes', () => processRows(technician, computer)] as const] : []),
      ...(computer
        ? [
            [
              'administrator rights',
              async () => {
                const others = await Promise.all(
                  ['Rune Takahashi', 'Odalys Brandt'].map((name) => house.signedIn(name)),
                );
                const [rune = rest, odalys = rest] = others;
                const login = 'bettina';
                const people = [rest, rune, odalys] as const;
                return rightsRows({ technician, person, computer, login, password: passwordOf(login), people });
              },
            ] as const,
          ]
        : []),
      ['command line', () => commandLineRows(technician, desktop.display)],
      ['safe point', () => pointRows(technician, desktop.home)],
      ...(computer
        ? [
            [
              'printing',
              () => printsRows(technician, { computer, home: desktop.home, spentMs: () => doorstepMs(computer) }),
            ] as const,
            [
              'who is signed in',
              () => desktopsRows(technician, rest, { computer, spentMs: () => doorstepMs(computer) }),
            ] as const,
          ]
        : []),
      // The last: nothing that is open there outlasts it.
      ...(computer ? [['restart', () => restartRows(technician, computer)] as const] : []),
    ] as const;
    printRows(await measured(parts.filter(([name]) => options.only === undefined || name === options.only)), options);
    person.close();
    technician.close();
  } finally {
    await house.close();
  }
}

/** One of that computer's own tools, started and read from outside. */
async function yardstickMs({ computer }: XDesktop): Promise<number> {
  const own: number[] = [];
  for (let i = 0; i < REPORTS; i++) {
    const begunAt = performance.now();
    await computer?.read('systemctl', 'list-units', '--type=service', '--all', '--output=json', '--no-pager');
    own.push(performance.now() - begunAt);
  }
  return quantile(own, 0.5) ?? 0;
}

async function reportRows(technician: LiveConnection, toolMs: number): Promise<Row[]> {
  const reports = new TechnicianReports(technician);
  const [first, quick, all]: [number[], number[], number[]] = [[], [], []];
  let last: SystemReport | undefined;
  for (let i = 0; i < REPORTS; i++) {
    const begunAt = performance.now();
    let quickMs: number | undefined;
    last = await reports.read(({ parts, missing }) => {
      const come = Object.keys(parts).length + Object.keys(missing).length;
      if (come === 1) first.push(performance.now() - begunAt);
      if (come >= reportPartNames.length - 1 && !parts.updates) quickMs ??= performance.now() - begunAt;
    });
    if (quickMs !== undefined) quick.push(quickMs);
    all.push(performance.now() - begunAt);
    await sleep(PAUSE_MS);
  }
  reports.close();
  const ms = (times: readonly number[]) => `${quantile(times, 0.5)?.toFixed(0) ?? '–'} ms`;
  return [
    { what: 'system report: first lines, median', value: ms(first), aim: '300 ms' },
    { what: 'system report: complete but for updates, median', value: ms(quick), aim: '2 s' },
    { what: 'system report: complete, median', value: ms(all), aim: '–' },
    { what: 'yardstick: one tool of that computer, started and read', value: `${toolMs.toFixed(0)} ms`, aim: '–' },
    { what: 'system report: as JSON', value: `${JSON.stringify(last).length} bytes`, aim: '–' },
  ];
}

type Computer = NonNullable<XDesktop['computer']>;
const PROCESSES = 5_000;
const WATCHED_MS = 30_000;
const TICK_MS = 10;

/** Processor time that Doorstep took so far, itself and what it waited for, by that computer's own kernel. */
async function doorstepMs(computer: Computer): Promise<number> {
  const pid = (await computer.read('pgrep', '-ox', 'doorstep')).trim();
  const stat = await computer.read('cat', `/proc/${pid}/stat`);
  const fields = stat
    .slice(stat.lastIndexOf(')') + 2)
    .split(' ')
    .map(Number);
  return fields.slice(11, 15).reduce((sum: number, ticks) => sum + ticks, 0) * TICK_MS;
}

async function processRows(technician: LiveConnection, computer: Computer): Promise<Row[]> {
  computer.atIt('sh', ['-c', `for i in $(seq ${PROCESSES}); do sleep 9999 & done; wait`]);
  await until('all to run', async () => Number(await computer.read('pgrep', '-xc', 'sleep')) >= PROCESSES);
  const programs = new TechnicianPrograms(technician);
  const first: number[] = [];
  let rows = 0;
  for (let i = 0; i < REPORTS; i++) {
    const begunAt = performance.now();
    let stop = () => undefined as void;
    const list = await new Promise<WatchedList>((resolve) => {
      stop = programs.watch('processes', (now) => now.isWhole && resolve(now));
    });
    first.push(performance.now() - begunAt);
    rows = list.rows.size;
    stop();
    await sleep(PAUSE_MS);
  }
  const idleMs = await doorstepMs(computer);
  await sleep(WATCHED_MS);
  const before = await doorstepMs(computer);
  let turns = 0;
  const stop = programs.watch('processes', () => turns++);
  // The second turn says with what each was started: that is read once.
  await until('the list', () => turns >= 2);
  turns = 0;
  const watching = await doorstepMs(computer);
  await sleep(WATCHED_MS);
  const after = await doorstepMs(computer);
  stop();
  programs.close();
  await computer.read('pkill', '-x', 'sleep');
  const share = (ms: number) => `${((ms / WATCHED_MS) * 100).toFixed(1)} % of a core`;
  return [
    {
      what: `processes: ${rows} rows, asked to whole, median`,
      value: `${quantile(first, 0.5)?.toFixed(0) ?? '–'} ms`,
      aim: '150 ms',
    },
    {
      what: `processes: watched, ${turns} refreshes in ${WATCHED_MS / 1_000} s`,
      value: share(after - watching),
      aim: '3 %',
    },
    { what: 'the same while nobody looks', value: share(before - idleMs), aim: '0' },
  ];
}

const GIGABYTE = 1_000_000_000;
const FILES = 100;

/** A gigabyte of files, and going back from all of it. The yardstick: the same bytes copied and hashed by the system's own tools. */
async function pointRows(technician: LiveConnection, home: string): Promise<Row[]> {
  const folder = join(home, 'Documents/large');
  mkdirSync(folder, { recursive: true });
  const name = (i: number) => join(folder, `manifest-${i}`);
  for (let i = 0; i < FILES; i++) writeFileSync(name(i), randomBytes(GIGABYTE / FILES));
  for (const path of [join(home, 'Documents'), folder, ...Array.from({ length: FILES }, (_, i) => name(i))])
    chownSync(path, THEIRS, THEIRS);
  const timed = async (work: () => unknown): Promise<number> => {
    const begunAt = performance.now();
    await work();
    return performance.now() - begunAt;
  };
  const run = promisify(execFile);
  const own = await timed(() =>
    run('sh', [
      '-c',
      `cp -a ${folder} ${home}/copied && sync -d ${home}/copied/* && sha256sum ${home}/copied/* && rm -r ${home}/copied`,
    ]),
  );
  const points = new TechnicianSafePoints(technician);
  let pointId = '';
  const touches = { paths: ['Documents/large'], services: [], hasPackages: false };
  const made = await timed(async () => (pointId = (await points.make('a gigabyte', touches)).id));
  const compared = await timed(() => points.compare(pointId));
  for (let i = 0; i < FILES; i++) writeFileSync(name(i), `${i}`);
  const back = await timed(() => points.goBack(pointId));
  points.close();
  const seconds = (ms: number) => `${(ms / 1_000).toFixed(1)} s`;
  return [
    { what: `safe point: 1 GB in ${FILES} files, made`, value: seconds(made), aim: '10 s' },
    { what: 'safe point: compared, every byte read', value: seconds(compared), aim: '–' },
    { what: 'safe point: gone back to, all of it changed', value: seconds(back), aim: '–' },
    { what: 'yardstick: cp, sync and sha256sum of the same', value: seconds(own), aim: '–' },
  ];
}
