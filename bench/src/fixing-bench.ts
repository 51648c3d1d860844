import { TechnicianReports, type LiveConnection } from '@porch/client';
import { reportPartNames, type SystemReport } from '@porch/core';
import { whyNoComputers } from '@porch/demo';
import { allow } from './allow.ts';
import { BenchHouse, sleep, until } from './bench-house.ts';
import { measured, printRows } from './measured.ts';
import { quantile } from './numbers.ts';
import type { Row } from './row.ts';

const REPORTS = 5;
/** Doorstep reads none sooner after another. */
const PAUSE_MS = 1_200;

/** How soon what helps to fix is there, on a whole computer. */
export async function fixingBench(options: { json?: boolean }): Promise<void> {
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
    await allow(technician, 'read-system-report', () => person.answer(true, 1_200));
    // The yardstick: one of that computer's own tools, started and read from outside.
    const own: number[] = [];
    for (let i = 0; i < REPORTS; i++) {
      const begunAt = performance.now();
      await desktop.computer?.read('systemctl', 'list-units', '--type=service', '--all', '--output=json', '--no-pager');
      own.push(performance.now() - begunAt);
    }
    printRows(await measured([['system report', () => reportRows(technician, quantile(own, 0.5) ?? 0)]]), options);
    person.close();
    technician.close();
  } finally {
    await house.close();
  }
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
