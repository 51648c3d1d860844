import type { LiveConnection, LookChannel } from '@porch/client';
import { DAY_MS, newSession, type Participant } from '@porch/core';
import {
  finishAsA,
  makeKeys,
  scalarOfSecret,
  secretContext,
  secretSides,
  shareOfA,
  type LookMessage,
  type ParticipantKeys,
} from '@porch/wire';
import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pino } from 'pino';
import { afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { ConsentHolder } from '../consent/consent-holder.ts';
import { StandingStore, type Standing } from './standing-store.ts';
import { VisitDesk } from './visit-desk.ts';

/* The door of a device without a desktop and without a service: whatever is said to it, in whatever order. */
const SESSION = randomUUID();
const DEVICE = randomUUID();
const SALT = 'cd'.repeat(16);
let right = 0n;
let wrong = 0n;
beforeAll(async () => {
  right = BigInt(`0x${await scalarOfSecret('ocean pearl flag engine', SALT)}`);
  wrong = BigInt(`0x${await scalarOfSecret('otter lamp harbour tern', SALT)}`);
});
let folder = '';
const open: VisitDesk[] = [];
beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'porch-visit-'))));
afterEach(() => {
  open.splice(0).forEach((desk) => desk.close());
  rmSync(folder, { recursive: true, force: true });
});

const person = (id: string, keys: ParticipantKeys): Participant => ({
  id,
  seat: 1,
  role: 'technician',
  technicianId: id,
  signKey: keys.signKey,
  agreeKey: keys.agreeKey,
  startId: keys.startId,
  pastStarts: [],
  proof: undefined,
  lastFact: 0,
  isReplaced: false,
  isGone: false,
  cannot: {},
  name: 'Pim Aldersey',
});

function door({ asksEachVisit = false, answer = 'yes' as 'yes' | 'no' | 'nobody', days = 7 } = {}) {
  const store = new StandingStore(join(folder, 'state'));
  const kept = store.read();
  const standing: Standing = kept ?? {
    version: 1,
    uid: process.getuid?.() ?? -1,
    serviceUrl: 'https://help.marrowick.example',
    deskName: 'Marrowick Ferries',
    deviceId: DEVICE,
    signSecret: 'ab'.repeat(32),
    consent: {
      name: 'tern-quay-04',
      allowed: ['view-screen', 'control-input'],
      madeAtMs: Date.now() - DAY_MS,
      untilMs: Date.now() + (days - 1) * DAY_MS,
      asksEachVisit,
    },
    salt: SALT,
    scalar: right.toString(16).padStart(64, '0'),
    triesLeft: 5,
  };
  if (!kept) store.write(standing);
  const keys = makeKeys();
  const pimKeys = makeKeys();
  const pim = person('pim', pimKeys);
  const said: LookMessage[] = [];
  const commands: { type: string }[] = [];
  const stops: string[] = [];
  const asked: string[] = [];
  const desk = new VisitDesk({
    connection: {
      sessionId: SESSION,
      keys,
      state: { ...newSession, deviceId: DEVICE, participants: { pim } },
      command: async (c: { type: string }) => void commands.push(c),
    } as unknown as LiveConnection,
    holder: {
      stop: (why: string) => void stops.push(why),
      askInTurn: async ({ title }: { title: string }) => {
        asked.push(title);
        return answer === 'nobody' ? undefined : answer === 'yes';
      },
      askAtTheDoor: async () => void asked.push('at the door'),
    } as unknown as ConsentHolder,
    look: { send: (_seat: number, message: LookMessage) => said.push(message) > 0 } as unknown as LookChannel,
    store,
    standing,
    noticeVersion: '1',
    log: pino({ level: 'silent' }),
    onBegun: () => undefined,
    onChanged: () => undefined,
  });
  open.push(desk);
  /** One exchange; `as` is whose keys the technician's program believes in. */
  const prove = async (
    w: bigint,
    change: { session?: string; technician?: ParticipantKeys; holder?: ParticipantKeys; device?: string } = {},
  ) => {
    const x = 12_345n;
    const shareA = shareOfA(w, x);
    desk.take(pim, { type: 'secretBegin', share: shareA });
    const answered = said.at(-1);
    if (answered?.type !== 'secretShare') return answered;
    const aad = secretContext(change.session ?? SESSION, change.technician ?? pimKeys, change.holder ?? keys);
    const sides = secretSides(change.device ?? DEVICE);
    const mine = finishAsA({ sides, w, shareA, shareB: answered.share, aad }, x);
    desk.take(pim, { type: 'secretProof', proof: mine?.proofOfA ?? '' });
    await new Promise((resolve) => setImmediate(resolve));
    return said.at(-1);
  };
  const covers = (permission: 'view-screen' | 'give-files') =>
    desk.coveredUntilMs({ id: 'a', participantId: 'pim', permissions: [permission], expiresAtMs: 0 }) !== undefined;
  return { desk, store, pim, said, commands, stops, asked, prove, covers };
}

it('lets in whoever knows the words, and covers what the consent holds and nothing else', async () => {
  const d = door();
  d.desk.take(d.pim, { type: 'atTheDoor' });
  expect(d.said).toEqual([{ type: 'secretWanted', salt: SALT, triesLeft: 5 }]);
  expect(d.covers('view-screen'), 'before anything was proven').toBe(false);
  expect(await d.prove(right)).toEqual({ type: 'secretResult', isRight: true, triesLeft: 5 });
  expect(d.commands).toMatchObject([{ type: 'beginVisit', participantId: 'pim', wasAsked: false }]);
  expect([d.covers('view-screen'), d.covers('give-files')]).toEqual([true, false]);
  expect(d.store.visits()).toMatchObject([{ sessionId: SESSION, hasBegun: true }]);
  // Ended at the device a moment later: nothing is covered any longer.
  d.store.remove();
  expect(d.covers('view-screen')).toBe(false);
});

describe('somebody between the two', () => {
  it('gains nothing by passing other keys, another session or another device off as the real ones', async () => {
    for (const change of [
      { technician: makeKeys() },
      { holder: makeKeys() },
      { session: randomUUID() },
      { device: randomUUID() },
    ]) {
      const d = door();
      d.store.setTries(5);
      expect(await d.prove(right, change)).toMatchObject({ type: 'secretResult', isRight: false });
      expect([d.desk.isProven('pim'), d.covers('view-screen'), d.commands]).toEqual([false, false, []]);
    }
  });

  it('cannot use a proof twice, one that nobody awaits, or one of another exchange', async () => {
    const d = door();
    d.desk.take(d.pim, { type: 'secretProof', proof: '00'.repeat(32) });
    expect(d.said).toEqual([]);
    await d.prove(wrong);
    const told = d.said.length;
    d.desk.take(d.pim, { type: 'secretProof', proof: '00'.repeat(32) });
    expect(d.said.length, 'the exchange is over').toBe(told);
    d.desk.take(d.pim, { type: 'secretBegin', share: 'zz' });
    expect(d.said.at(-1)).toMatchObject({ type: 'secretResult', isRight: false, triesLeft: 3 });
  });
});

it('gives five tries, over as many visits and restarts as anybody likes, and none for breaking off in the middle', async () => {
  for (let visit = 0; visit < 2; visit++) {
    const d = door();
    await d.prove(wrong);
    // Begun and never finished: counted all the same.
    d.desk.take(d.pim, { type: 'secretBegin', share: shareOfA(wrong, 7n) });
  }
  const last = door();
  expect(await last.prove(wrong)).toEqual({ type: 'secretResult', isRight: false, triesLeft: 0 });
  expect(await last.prove(right), 'not even with the right words').toEqual({
    type: 'secretResult',
    isRight: false,
    triesLeft: 0,
  });
  last.desk.take(last.pim, { type: 'askWhoIsThere' });
  last.desk.take(last.pim, { type: 'askWhoIsThere' });
  expect(last.asked, 'once for each visit').toEqual(['at the door']);
});

it.each([
  ['yes' as const, [], 1],
  ['no' as const, ['did not want this visit'], 0],
  ['nobody' as const, ['nobody answered at the device'], 0],
])('asks whoever sits there where the consent says so: %s', async (answer, stops, begun) => {
  const d = door({ asksEachVisit: true, answer });
  await d.prove(right);
  expect(d.asked).toEqual(['Pim Aldersey of Marrowick Ferries wants to connect to this computer']);
  expect([d.stops, d.commands.length]).toEqual([stops, begun]);
  expect(d.covers('view-screen')).toBe(begun === 1);
});

it('begins nothing by a consent that has run out, though the words are right', async () => {
  const d = door({ days: 1 });
  await d.prove(right);
  expect([d.commands, d.covers('view-screen')]).toEqual([[], false]);
});
