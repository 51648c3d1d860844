import { House, until } from '@porch/testkit';
import { randomUUID } from 'node:crypto';
import type { DataSource } from 'typeorm';
import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import { NeverDeliverable, type Carriers, type ParcelKind } from '../src/module/parcels.ts';
import { SharedRounds } from '../src/module/shared-rounds.ts';
import { Outbox } from '../src/modules/outbox/outbox.ts';
import { sendAgain, stuckParcels } from '../src/modules/outbox/stuck-parcels.ts';
import { makeRecords } from '../src/modules/records.ts';
import { terminalWaits } from '../src/db/data-source.ts';

/* Work in the background on the same records, by more than one process: each of these is one, with connections of its own. */
let house: House;
let processes: [DataSource, DataSource];
beforeAll(async () => {
  house = await House.open();
  // What it does itself would be a third.
  await house.killService();
  processes = [
    makeRecords(house.databaseUrl, () => undefined, terminalWaits),
    makeRecords(house.databaseUrl, () => undefined, terminalWaits),
  ];
  await Promise.all(processes.map((records) => records.initialize()));
});
afterAll(async () => {
  await Promise.all(processes.map((records) => records.destroy()));
  await house.close();
});
beforeEach(() => processes[0].query('DELETE FROM "outbox"'));

const silent = { warn: () => undefined } as never;
const outboxOf = (records: DataSource, carry: Carriers['remark']['carry'], more: Partial<Carriers['remark']> = {}) =>
  new Outbox({
    records,
    log: silent,
    onChanged: () => undefined,
    carrier: <K extends ParcelKind>(kind: K) =>
      kind === 'remark' ? ({ carry, ...more } as unknown as Carriers[K]) : undefined,
  });
const put = (outbox: Outbox, text: string, sessionId: string = randomUUID()) =>
  processes[0].transaction((tx) => outbox.put(tx, sessionId, 'remark', { ref: 'MF-1', text }, Date.now() - 1_000));

it('delivers each parcel once, whichever process comes to it, and both have a part in it', async () => {
  const carried: string[] = [];
  const by = [0, 0];
  const outboxes = processes.map((records, i) =>
    outboxOf(records, async ({ text }) => {
      by[i] = (by[i] ?? 0) + 1;
      await new Promise((resolve) => setTimeout(resolve, 2));
      carried.push(text);
    }),
  );
  const texts = Array.from({ length: 60 }, (_, i) => `remark ${i}`);
  for (const text of texts) await put(outboxes[0] as Outbox, text);
  await Promise.all(outboxes.map((outbox) => outbox.deliverDue()));
  expect(carried.toSorted()).toEqual(texts.toSorted());
  expect(Math.min(...by)).toBeGreaterThan(0);
});

it('leaves a parcel of somebody who died in the middle to the other, once their time is over', async () => {
  let release = () => {};
  const dead = outboxOf(processes[0], () => new Promise((resolve) => (release = resolve)));
  await put(dead, 'held');
  const dying = dead.deliverDue();
  const carried: string[] = [];
  const alive = outboxOf(processes[1], async ({ text }) => void carried.push(text));
  await until('it to be taken', async () => {
    const [row] = await processes[1].query<{ attempts: number }[]>('SELECT "attempts" FROM "outbox"');
    return row?.attempts === 1;
  });
  await alive.deliverDue();
  expect(carried, 'while it is held').toEqual([]);
  await processes[1].query(`UPDATE "outbox" SET "next_at" = clock_timestamp() - interval '1 second'`);
  await alive.deliverDue();
  expect(carried).toEqual(['held']);
  release();
  await dying;
});

it('lists what does not arrive and why, gives up what never can, and tries it again when it is told to', async () => {
  const told: string[] = [];
  let isBroken = true;
  const outbox = outboxOf(
    processes[0],
    async ({ text }) => {
      if (isBroken) throw text === 'never' ? new NeverDeliverable('no such ticket') : new Error('no answer');
    },
    { heldUp: async (_, why) => void told.push(`held up: ${why}`), givenUp: async (_, why) => void told.push(why) },
  );
  await put(outbox, 'later');
  await put(outbox, 'never');
  await outbox.deliverDue();
  expect(told.toSorted()).toEqual(['held up: no answer', 'no such ticket']);
  const [never, later] = await stuckParcels(processes[1]);
  expect([never, later]).toMatchObject([
    { why: 'no such ticket', attempts: 1, givenUpAtMs: expect.any(Number) as number },
    { why: 'no answer', attempts: 1, nextTryAtMs: expect.any(Number) as number },
  ]);
  const admin = await house.admin(['parcel', 'list']);
  expect(admin.out).toContain('given up after 1: no such ticket');
  expect((await house.admin(['check'])).out).toContain('1 were given up');
  isBroken = false;
  expect((await house.admin(['parcel', 'again', never?.id ?? ''])).code).toBe(0);
  expect((await house.admin(['parcel', 'again', 'what'])).err).toContain('porch-admin parcel list');
  expect(await sendAgain(processes[1], later?.id ?? '')).toBe(true);
  await outbox.deliverDue();
  expect(await stuckParcels(processes[1])).toEqual([]);
  expect(await sendAgain(processes[1], never?.id ?? ''), 'what has arrived is not sent again').toBe(false);
});

it('does a round once in its pause, never two at a time, however many processes look', async () => {
  const rounds = processes.map((records) => new SharedRounds(records));
  let [running, most, done] = [0, 0, 0];
  const work = async () => {
    most = Math.max(most, ++running);
    await new Promise((resolve) => setTimeout(resolve, done % 5));
    running--;
    done++;
  };
  for (let i = 0; i < 40; i++) {
    await Promise.all([0, 1, 0, 1].map((at) => rounds[at]?.take('counting', 3_600_000, work)));
    // An hour goes by.
    await processes[0].query(`UPDATE "round" SET "due_at" = clock_timestamp() WHERE "what" = 'counting'`);
  }
  expect([most, done]).toEqual([1, 40]);
});

it('puts off a round that fails by more each time, keeps why, and goes on as usual when it works again', async () => {
  const [rounds] = processes.map((records) => new SharedRounds(records));
  const row = async () =>
    (
      await processes[1].query<{ wait: string; failures: number; last_error: string | null }[]>(
        `SELECT extract(epoch FROM "due_at" - clock_timestamp()) AS wait, "failures", "last_error" FROM "round" WHERE "what" = 'failing'`,
      )
    )[0];
  const waits: number[] = [];
  const due = () => processes[0].query(`UPDATE "round" SET "due_at" = clock_timestamp() WHERE "what" = 'failing'`);
  for (let i = 0; i < 3; i++) {
    await expect(rounds?.take('failing', 10_000, () => Promise.reject(new Error('no paper')))).rejects.toThrow();
    waits.push(Math.round(Number((await row())?.wait)));
    await due();
  }
  expect(waits).toEqual([20, 40, 80]);
  expect(await row()).toMatchObject({ failures: 3, last_error: 'no paper' });
  expect(await rounds?.take('failing', 10_000, () => Promise.resolve())).toBe(true);
  expect(await row()).toMatchObject({ failures: 0, last_error: null });
});
