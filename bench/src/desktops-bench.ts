import { TechnicianDesktops, type LiveConnection, type RestClient } from '@porch/client';
import type { XDesktop } from '@porch/demo';
import { sleep, until } from './bench-house.ts';
import { quantile } from './numbers.ts';
import type { Row } from './row.ts';

const LISTS = 15;
const IDLE_MS = 30_000;
type Computer = NonNullable<XDesktop['computer']>;

/** How soon it is known who is signed in, and what it costs that somebody looks. `spentMs`: processor time of Doorstep so far. */
export async function desktopsRows(
  technician: LiveConnection,
  rest: RestClient,
  { computer, spentMs }: { computer: Computer; spentMs: () => Promise<number> },
): Promise<Row[]> {
  const [took, own]: [number[], number[]] = [[], []];
  for (let i = 0; i < LISTS; i++) {
    const ownBegunAt = performance.now();
    await computer.read('loginctl', 'list-sessions', '--no-legend');
    own.push(performance.now() - ownBegunAt);
    const begunAt = performance.now();
    const listed = await new Promise<TechnicianDesktops>((resolve) => {
      const desktops = new TechnicianDesktops(technician, rest, () => resolve(desktops));
    });
    took.push(performance.now() - begunAt);
    listed.close();
  }
  const quietly = await spentMs();
  await sleep(IDLE_MS);
  const unseen = (await spentMs()) - quietly;
  const desktops = new TechnicianDesktops(technician, rest, () => undefined);
  await until('the list', () => desktops.rows !== undefined);
  const before = await spentMs();
  await sleep(IDLE_MS);
  const seen = (await spentMs()) - before;
  desktops.close();
  const ms = (times: readonly number[]) => `${(quantile(times, 0.5) ?? 0).toFixed(0)} ms`;
  const share = (spent: number) => `${((spent / IDLE_MS) * 100).toFixed(2)} %`;
  return [
    { what: 'who is signed in: asked to listed at the technician’s, median', value: ms(took), aim: '–' },
    { what: 'yardstick: `loginctl` alone, started and read', value: ms(own), aim: '–' },
    { what: 'who is signed in: watched, of a core', value: share(seen), aim: '–' },
    { what: 'the same Doorstep while nobody looks', value: share(unseen), aim: '–' },
  ];
}
