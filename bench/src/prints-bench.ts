import { TechnicianPrints, type LiveConnection } from '@porch/client';
import type { XDesktop } from '@porch/demo';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { sleep, until } from './bench-house.ts';
import { quantile } from './numbers.ts';
import type { Row } from './row.ts';

const PRINTS = 7;
const IDLE_MS = 70_000;
type Computer = NonNullable<XDesktop['computer']>;

/** From printing to the document at the technician's, and what a printer costs that nobody uses. `spentMs`: processor time of Doorstep so far. */
export async function printsRows(
  technician: LiveConnection,
  { computer, home, spentMs }: { computer: Computer; home: string; spentMs: () => Promise<number> },
): Promise<Row[]> {
  const prints = new TechnicianPrints(technician, () => undefined);
  await until('a printer', () => prints.printer?.is === 'ready');
  const listed = await computer.read('lpstat', '-e');
  const queue = listed.trim().split('\n')[0] ?? '';
  const file = join(home, 'Documents', 'to-print.txt');
  mkdirSync(join(home, 'Documents'), { recursive: true });
  writeFileSync(file, 'Puffin, Tern Quay 08:40, PF-2231\n');
  const as = ['--reuid', 'bettina', '--regid', 'bettina', '--clear-groups', '--'];
  const [took, own]: [number[], number[]] = [[], []];
  for (let i = 1; i <= PRINTS; i++) {
    const begunAt = performance.now();
    await computer.read('setpriv', ...as, 'lp', '-d', queue, '-t', `Pass ${i}`, file);
    own.push(performance.now() - begunAt);
    await until('the document', () => prints.documents.some(({ title, bytes }) => title === `Pass ${i}` && bytes));
    took.push(performance.now() - begunAt);
  }
  const before = await spentMs();
  await sleep(IDLE_MS);
  const share = (await spentMs()) - before;
  prints.close();
  const ms = (times: readonly number[]) => `${(quantile(times, 0.5) ?? 0).toFixed(0)} ms`;
  return [
    { what: 'printing: from `lp` to the whole PDF at the technician’s, median', value: ms(took), aim: '–' },
    { what: 'yardstick: `lp` alone, until the print system has the job', value: ms(own), aim: '–' },
    { what: 'a printer that nobody uses: of a core', value: `${((share / IDLE_MS) * 100).toFixed(2)} %`, aim: '–' },
  ];
}
