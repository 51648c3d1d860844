import type { SealedLine } from '@porch/client';
import type { Participant } from '@porch/core';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import type { DesktopRow, DesktopsMessage } from '@porch/wire';
import { host } from '@porch/words/host';
import { expect, it } from 'vitest';
import type { Kit } from '../../kit.ts';
import { RingRefused, type DesktopsPort } from '../../ports/desktops-port.ts';
import { RING_MS, Rings } from './rings.ts';

const PIM = { id: 'pim', seat: 2, signKey: 'pim', name: 'Pim Aldersey' } as Participant;
const [ONE, TWO] = ['00000000-0000-4000-8000-000000000001', '00000000-0000-4000-8000-000000000002'];
const samir: DesktopRow = {
  ...{ desktop: '7', account: 'samir', name: '', kind: 'person', isInFront: false, sinceMs: 0 },
};

/** A computer with a bell at Samir's desktop: he is asked until `answer` says something, or nobody wants it any longer. */
function world(rows: readonly DesktopRow[] = [samir]) {
  const clock = new VirtualClock();
  const sent: DesktopsMessage[] = [];
  const told: { type: string; why?: string; account?: string }[] = [];
  const ends = new AbortController();
  const lease = {
    signal: ends.signal,
    get isRunning() {
      return !ends.signal.aborted;
    },
    get state() {
      return { name: ends.signal.aborted ? 'over' : 'running' };
    },
  };
  let answer: (how: 'came' | 'no') => void = () => undefined;
  const bell: { refuses?: string } = {};
  const port: DesktopsPort = {
    list: () => Promise.resolve(rows),
    onChanged: () => () => undefined,
    ring: (_desktop, _link, signal, begun) =>
      new Promise((resolve, reject) => {
        if (bell.refuses !== undefined) return reject(new RingRefused(bell.refuses));
        begun();
        answer = resolve;
        signal.addEventListener('abort', () => resolve('not-answered'));
      }),
  };
  const kit = {
    ...{ time: clock, words: host.en, isAsking: false, changed: () => undefined },
    log: { info: () => undefined, warn: () => undefined, error: () => undefined },
    held: { during: () => lease },
    connection: { state: { slices: { desktops: { rings: {} } } } },
    report: (make: (fact: number) => never) => told.push(make(1)),
  };
  const line = { send: (_seat: number, message: DesktopsMessage) => sent.push(message) > 0 };
  const rings = new Rings(kit as unknown as Kit, port, line as unknown as SealedLine<DesktopsMessage>);
  const settle = async () => {
    for (let i = 0; i < 10; i++) await new Promise((resolve) => setImmediate(resolve));
  };
  const ring = async (id = ONE, desktop = '7') => {
    rings.begin(PIM, { type: 'ring', id, desktop, link: 'http://127.0.0.1/join/a' });
    await settle();
  };
  const facts = () => told.map(({ type, why }) => [type.split('/')[1], ...(why ? [why] : [])].join(' '));
  return {
    clock,
    sent,
    told,
    ends,
    bell,
    kit,
    rings,
    ring,
    settle,
    facts,
    answer: (how: 'came' | 'no') => answer(how),
  };
}

it('is told once somebody is asked, once with what they said, and says so on the bar meanwhile', async () => {
  const w = world();
  await w.ring();
  expect(w.rings.ringing).toEqual([{ who: 'Pim', account: 'samir' }]);
  await w.ring(TWO);
  expect(w.sent, 'one at a time').toEqual([{ type: 'refused', id: TWO, why: 'too many are on their way' }]);
  w.answer('came');
  await w.settle();
  expect([w.facts(), w.rings.ringing]).toEqual([['tellRung', 'tellCame'], []]);
  expect(w.sent.at(-1)).toEqual({ type: 'answer', id: ONE, how: 'came' });
  await w.ring(TWO);
  w.answer('no');
  await w.settle();
  expect(w.facts().slice(2)).toEqual(['tellRung', 'tellNotCome no']);
});

it('ends by itself, by a press, and with its permission: each has its word', async () => {
  const w = world();
  await w.ring();
  w.clock.advance(RING_MS);
  await w.settle();
  expect(w.facts()).toEqual(['tellRung', 'tellNotCome not-answered']);
  await w.ring(TWO);
  w.rings.stop(PIM, TWO);
  await w.settle();
  expect(w.facts().slice(2)).toEqual(['tellRung', 'tellNotCome taken-back']);
  expect(w.sent.at(-1)).toEqual({ type: 'answer', id: TWO, how: 'taken-back' });
  const other = world();
  await other.ring();
  other.ends.abort();
  await other.rings.close();
  expect(other.facts()).toEqual(['tellRung', 'tellNotCome taken-back']);
  expect(other.sent, 'who may not any longer hears nothing').toEqual([]);
});

it('is not told of where nobody was asked, and why is said to the technician', async () => {
  const refusals = async (w: ReturnType<typeof world>, desktop = '7') => {
    await w.ring(ONE, desktop);
    return [w.facts(), w.sent.map((message) => (message.type === 'refused' ? message.why : message.type))];
  };
  expect(await refusals(world(), '8')).toEqual([[], ['it is not there any longer']]);
  expect(await refusals(world([{ ...samir, whyNot: 'no-bell' }]))).toEqual([
    [],
    ['nobody can be asked at that desktop'],
  ]);
  const busy = world();
  busy.bell.refuses = 'somebody is being asked there already';
  expect(await refusals(busy)).toEqual([[], ['somebody is being asked there already']]);
  const asking = world();
  Object.assign(asking.kit, { isAsking: true });
  expect(await refusals(asking)).toEqual([[], ['a question is open at their computer']]);
});
