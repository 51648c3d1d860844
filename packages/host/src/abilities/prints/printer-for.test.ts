import type { Participant } from '@porch/core';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import { realRandomness, type PrintsMessage } from '@porch/wire';
import { host } from '@porch/words/host';
import { expect, it } from 'vitest';
import type { Lease } from '../../consent/held.ts';
import type { Kit } from '../../kit.ts';
import { PrinterRefused, type PrinterOrder, type PrintsPort } from '../../ports/prints-port.ts';
import { HeldDocuments, MAX_HELD_BYTES, MAX_HELD_DOCUMENTS } from './held-documents.ts';
import { MAX_PRINTS, PrinterFor } from './printer-for.ts';

const PIM = { id: 'pim', seat: 2, signKey: 'pim', name: 'Pim Aldersey' } as Participant;
const pass = (size = 8) => ({ title: 'Boarding pass', bytes: new Uint8Array(size), sha256: 'a'.repeat(64) });

function world(open?: PrintsPort['open']) {
  const clock = new VirtualClock();
  const sent: PrintsMessage[] = [];
  const told: { type: string; why?: string; how?: string }[] = [];
  const lease = { isRunning: true, state: { name: 'running' } as Lease['state'] };
  const orders: PrinterOrder[] = [];
  const closed: string[] = [];
  const port: PrintsPort = {
    open:
      open ??
      ((order) => {
        orders.push(order);
        return Promise.resolve({ close: () => Promise.resolve(void closed.push('closed')) });
      }),
  };
  const kit = {
    ...{ time: clock, words: host.en, random: realRandomness, changed: () => undefined },
    log: { info: () => undefined, warn: () => undefined, error: () => undefined },
    report: (make: (fact: number) => never) => told.push(make(1)),
  } as unknown as Kit;
  const printer = new PrinterFor({ kit, port, from: PIM, lease: lease as Lease, send: (one) => sent.push(one) });
  const pause = (why: string) => Object.assign(lease, { isRunning: false, state: { name: 'paused', why } });
  const end = () => Object.assign(lease, { isRunning: false, state: { name: 'over' } });
  return { clock, sent, told, orders, closed, printer, pause, end };
}
const settled = () => new Promise((resolve) => setImmediate(resolve));

it('stands in the list under its technician’s name, and what is printed on it is told as it is printed', async () => {
  const { printer, orders, sent, told, closed } = world();
  await settled();
  expect([orders[0]?.title, printer.isThere]).toEqual(['Pim Aldersey (support session)', true]);
  expect(orders[0]?.take(pass())).toBe(true);
  expect(told.map(({ type }) => type)).toEqual(['prints/tellPrinterAdded', 'prints/tellPrinted']);
  expect(sent).toMatchObject([
    { type: 'printer', is: 'ready' },
    { type: 'document', sizeBytes: 8 },
  ]);
  await printer.close();
  expect([closed, told.at(-1)?.type]).toEqual([['closed'], 'prints/tellPrinterGone']);
});

it('takes nothing once it is not allowed any longer, in the very tick, and lets things wait while it rests', async () => {
  const { printer, orders, told, pause, end } = world();
  await settled();
  const [order] = orders;
  pause('they are doing something private');
  expect([order?.room(1), order?.take(pass())]).toEqual(['later', false]);
  expect(told.at(-1)).toMatchObject({ type: 'prints/tellRefused', why: 'no-room' });
  end();
  expect([order?.room(1), order?.take(pass()), printer.held.all]).toEqual(['never', false, []]);
  await printer.close();
  expect([order?.take(pass()), printer.held.all]).toEqual([false, []]);
});

it('says once in a while that something was not taken, and never takes more than its most', async () => {
  const { orders, told, clock } = world();
  await settled();
  const refused = () => told.filter(({ type }) => type === 'prints/tellRefused').length;
  for (let i = 0; i < 50; i++) orders[0]?.refused('no-pdf');
  expect(refused()).toBe(1);
  clock.advance(6_000);
  orders[0]?.refused('too-large');
  expect(refused()).toBe(2);
  let taken = 0;
  for (let i = 0; i < MAX_PRINTS + 50; i++) taken += orders[0]?.take(pass(1)) ? 1 : 0;
  expect(taken, 'what nobody fetched is not dropped for more').toBe(MAX_HELD_DOCUMENTS);
});

it('that cannot be added says why, and is tried again when somebody asks, but not all the time', async () => {
  let tries = 0;
  const { printer, sent, clock, told } = world(() => {
    tries += 1;
    return Promise.reject(new PrinterRefused('too many printers have its name already'));
  });
  await settled();
  const why = { type: 'printer', is: 'broken', why: 'too many printers have its name already' };
  expect(sent).toMatchObject([why]);
  printer.tell();
  await settled();
  expect(tries).toBe(1);
  clock.advance(6_000);
  printer.tell();
  await settled();
  expect([tries, sent.at(-1), told]).toEqual([2, expect.objectContaining(why), []]);
});

it('that closes while it is being added is taken out again', async () => {
  let add: (open: { close(): Promise<void> }) => void = () => undefined;
  const closed: string[] = [];
  const { printer, told } = world(() => new Promise((resolve) => (add = resolve)));
  const closing = printer.close();
  add({ close: () => Promise.resolve(void closed.push('closed')) });
  await closing;
  expect([closed, told.filter(({ type }) => type === 'prints/tellPrinterAdded')]).toEqual([['closed'], []]);
});

it('keeps what waits, and drops what has arrived when room is needed', () => {
  const held = new HeldDocuments();
  const half = { ...pass(0), bytes: { length: MAX_HELD_BYTES / 2 } as Uint8Array };
  held.add({ ...half, printId: 'one' });
  held.add({ ...half, printId: 'two' });
  expect([held.hasRoomFor(1), held.hasArrived('one'), held.hasArrived('one')]).toEqual([false, true, false]);
  expect(held.hasRoomFor(1)).toBe(true);
  held.add({ ...pass(1), printId: 'three' });
  expect(held.all.map(({ printId }) => printId)).toEqual(['two', 'three']);
});
