import type { SealedLine } from '@porch/client';
import type { Participant, ProgramRow } from '@porch/core';
import { runs } from '@porch/testkit/seeds';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import { decodeWords, MAX_ROWS_A_MESSAGE, MAX_ROWS_CHARS, programsChannel, type ProgramsMessage } from '@porch/wire';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { Kit } from '../../kit.ts';
import { inMessages, RowDifferences } from './row-differences.ts';
import { ProgramWatches } from './watches.ts';

const PIM = { id: 'pim', seat: 2, signKey: 'pim' } as Participant;
const WATCH = '00000000-0000-4000-8000-000000000001';
const port = (i: number, address = '::'): ProgramRow<'ports'> => ({
  ...{ id: `p${i}`, protocol: 'tcp', address, port: i, reach: 'everybody' },
});

/** Lists of a computer that take `readMs` to read, watched by somebody who takes what comes. */
function watched(untouchedPrograms: string[] = []) {
  const clock = new VirtualClock();
  const world = { rows: [port(1)] as ProgramRow[], readMs: 0, reads: 0, isHalf: false };
  const lease = { state: { name: 'running' }, isRunning: true };
  const sent: ProgramsMessage[] = [];
  const told: unknown[] = [];
  const kit = {
    ...{ time: clock, held: { during: () => lease }, desk: { untouchedPrograms } },
    report: (make: (fact: number) => unknown) => told.push(make(1)),
    log: { warn: () => undefined },
  };
  const line = {
    messageBytes: undefined,
    send: (_seat: number, message: ProgramsMessage) => sent.push(message) > 0,
    sendPlain: (_seat: number, plain: Uint8Array) => sent.push(decodeWords(programsChannel, plain)) > 0,
  };
  const reading = {
    get isHalf() {
      return world.isHalf;
    },
    read: () => {
      world.reads++;
      return new Promise<ProgramRow[]>((resolve) => clock.after(world.readMs, () => resolve(world.rows)));
    },
  };
  const watches = new ProgramWatches(
    kit as unknown as Kit,
    { open: () => reading as never, plan: () => Promise.reject(new Error('not here')) },
    line as unknown as SealedLine<ProgramsMessage>,
  );
  const pass = async (ms: number) => {
    clock.advance(ms);
    await new Promise((resolve) => setImmediate(resolve));
  };
  const turns = () => sent.flatMap((message) => (message.type === 'turn' ? message.turn : []));
  return { watches, clock, world, lease, sent, told, pass, turns };
}

it('reads only for somebody who took what came, and no sooner than forty times what reading took', async () => {
  const w = watched();
  w.world.readMs = 500;
  w.watches.begin(PIM, { watchId: WATCH, list: 'ports' });
  await w.pass(500);
  expect(w.turns()).toEqual([1]);
  await w.pass(60_000);
  expect(w.world.reads, 'nobody asked for more').toBe(1);
  w.watches.goOn(PIM, { watchId: WATCH, turn: 1 });
  await w.pass(500);
  expect(w.turns()).toEqual([1, 2]);
  w.watches.goOn(PIM, { watchId: WATCH, turn: 1 });
  await w.pass(19_000);
  expect(w.world.reads, 'a turn that was taken before wants nothing').toBe(2);
  w.watches.goOn(PIM, { watchId: WATCH, turn: 2 });
  await w.pass(900);
  expect(w.world.reads).toBe(2);
  await w.pass(200);
  expect(w.world.reads).toBe(3);
  expect(w.told).toHaveLength(1);
  w.watches.close();
});

it('sends only what is other than before, reads at once what is half said or was acted on, and rests with its lease', async () => {
  const w = watched(['gate-*']);
  w.world.isHalf = true;
  w.watches.begin(PIM, { watchId: WATCH, list: 'services' });
  const service = (name: string): ProgramRow => ({
    ...{ id: name, name, about: '', state: 'running', begins: 'unknown', whose: 'person' },
  });
  w.world.rows = [service('gate-board'), service('clock')];
  await w.pass(0);
  const rows = () => w.sent.flatMap((message) => (message.type === 'rows' ? message.rows : []));
  expect(rows()).toEqual([{ ...service('gate-board'), guard: 'policy' }, service('clock')]);
  w.world.isHalf = false;
  w.world.rows = [service('clock'), service('new')];
  w.watches.goOn(PIM, { watchId: WATCH, turn: 1 });
  await w.pass(0);
  expect(w.turns()).toEqual([1, 2]);
  expect(rows().slice(2)).toEqual([service('new')]);
  expect(w.sent.filter(({ type }) => type === 'gone')).toMatchObject([{ ids: ['gate-board'] }]);

  w.watches.goOn(PIM, { watchId: WATCH, turn: 2 });
  w.watches.hurry('ports');
  await w.pass(0);
  expect(w.turns(), 'something of another list').toEqual([1, 2]);
  w.watches.hurry('services');
  await w.pass(0);
  expect(w.turns()).toEqual([1, 2, 3]);

  Object.assign(w.lease, { state: { name: 'paused', why: 'private' }, isRunning: false });
  w.watches.goOn(PIM, { watchId: WATCH, turn: 3 });
  await w.pass(10_000);
  expect(w.world.reads, 'it rests').toBe(3);
  w.watches.begin(PIM, { watchId: '00000000-0000-4000-8000-000000000002', list: 'jobs' });
  expect(w.sent.at(-1)).toMatchObject({ type: 'refused', why: 'private' });
  Object.assign(w.lease, { state: { name: 'running' }, isRunning: true });
  w.watches.goOn(PIM, { watchId: WATCH, turn: 3 });
  w.watches.check();
  await w.pass(0);
  expect(w.turns()).toEqual([1, 2, 3, 4]);
  w.watches.stop({ ...PIM, seat: 3 }, WATCH);
  w.watches.stop(PIM, WATCH);
  w.watches.goOn(PIM, { watchId: WATCH, turn: 4 });
  expect(w.sent.at(-1)).toMatchObject({ type: 'refused', why: 'it is not watched any longer' });
  w.watches.close();
});

it('differences put together are the list, whatever came, went and changed; messages keep to their bounds', () => {
  const rows = fc.uniqueArray(fc.tuple(fc.integer({ min: 0, max: 9 }), fc.constantFrom('::', '127.0.0.1')), {
    selector: ([i]) => i,
  });
  fc.assert(
    fc.property(fc.array(rows, { maxLength: 6 }), (turns) => {
      const differences = new RowDifferences();
      const known = new Map<string, ProgramRow>();
      for (const turn of turns) {
        const now = turn.map(([i, address]) => port(i, address));
        const { rows: changed, gone } = differences.next(now);
        for (const id of gone) expect(known.delete(id)).toBe(true);
        for (const text of changed) {
          const row = JSON.parse(text) as ProgramRow;
          expect(known.get(row.id), 'what did not change is not sent').not.toEqual(row);
          known.set(row.id, row);
        }
        expect([...known.values()].sort((a, b) => (a.id < b.id ? -1 : 1))).toEqual(
          now.sort((a, b) => (a.id < b.id ? -1 : 1)),
        );
      }
    }),
    runs(),
  );
  fc.assert(
    fc.property(
      fc.array(fc.string({ maxLength: 2_000 }), { maxLength: 80 }),
      fc.integer({ min: 1, max: 100_000 }),
      (texts, most) => {
        const messages = inMessages(texts, most);
        expect(messages.flat()).toEqual(texts);
        for (const message of messages) {
          expect(message.length).toBeLessThanOrEqual(MAX_ROWS_A_MESSAGE);
          const chars = message.join('').length;
          expect(message.length === 1 || chars <= Math.min(most, MAX_ROWS_CHARS)).toBe(true);
        }
      },
    ),
    runs(),
  );
});
