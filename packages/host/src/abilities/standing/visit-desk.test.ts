import { Listeners, type LiveConnection, type LiveEvents } from '@porch/client';
import { DAY_MS, newSession } from '@porch/core';
import { fakeKit } from '@porch/testkit/fake-kit';
import { participantOf } from '@porch/testkit/participant';
import {
  decodeFrame,
  decodeWords,
  encodeWords,
  finishAsA,
  makeKeys,
  PairwiseChannel,
  scalarOfSecret,
  secretContext,
  secretSides,
  shareOfA,
  standingChannel,
  type DoorMessage,
  type ParticipantKeys,
  realClock,
  realRandomness,
} from '@porch/wire';
import { randomUUID } from 'node:crypto';
import { afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { GrantBook } from '../../consent/grant-book.ts';
import type { Standing, VisitLine, VisitPort } from '../../ports/standing-port.ts';
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
/** What lies on the device's disk, over restarts of its program. */
let disk: { standing: Standing | undefined; visits: VisitLine[] } = { standing: undefined, visits: [] };
const open: VisitDesk[] = [];
beforeEach(() => (disk = { standing: undefined, visits: [] }));
afterEach(() => open.splice(0).forEach((desk) => desk.close()));

function door({ asksEachVisit = false, answer = 'yes' as 'yes' | 'no' | 'nobody', days = 7 } = {}) {
  disk.standing ??= {
    deskName: 'Marrowick Ferries',
    deviceId: DEVICE,
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
  const setTries = (triesLeft: number) => {
    if (disk.standing) disk.standing = { ...disk.standing, triesLeft };
  };
  const port: VisitPort = {
    standing: disk.standing,
    read: () => disk.standing,
    takeTry: () => {
      const left = disk.standing?.triesLeft ?? 0;
      if (left > 0) setTries(left - 1);
      return left > 0;
    },
    setTries,
    addVisit: (visit) => void disk.visits.push(visit),
    onBegun: () => undefined,
  };
  const keys = makeKeys();
  const pimKeys = makeKeys();
  const pim = participantOf('pim', 1, 'lead', { keys: pimKeys });
  const said: DoorMessage[] = [];
  const commands: { type: string }[] = [];
  const asked: string[] = [];
  const listeners = new Listeners<LiveEvents>();
  const technician = new PairwiseChannel({
    sessionId: SESSION,
    mine: pimKeys,
    mySeat: 1,
    theirAgreeKey: keys.agreeKey,
    theirStartId: keys.startId,
    theirSeat: 2,
    channel: 'door',
  });
  const connection = {
    sessionId: SESSION,
    keys,
    seat: 2,
    state: { ...newSession, deviceId: DEVICE, participants: { pim } },
    clock: realClock,
    random: realRandomness,
    on: listeners.on.bind(listeners),
    command: async (c: { type: string }) => void commands.push(c),
    sendFrame: (bytes: Uint8Array) => said.push(decodeWords(standingChannel, technician.open(bytes).plain)) > 0,
  } as unknown as LiveConnection;
  const { kit, stops } = fakeKit(connection, new GrantBook(keys, SESSION, 0), {}, ({ title }) => {
    asked.push(title);
    if (answer === 'nobody') return Promise.resolve(undefined);
    return Promise.resolve(answer === 'yes' ? { what: 'yes', choices: [] } : { what: 'no' });
  });
  kit.askAtTheDoor = () => Promise.resolve(void asked.push('at the door'));
  const desk = new VisitDesk(kit, port);
  open.push(desk);
  const say = (message: DoorMessage) => {
    const bytes = technician.seal(encodeWords(message));
    listeners.emit('frame', { frame: decodeFrame(bytes), bytes });
  };
  /** One exchange; `as` is whose keys the technician's program believes in. */
  const prove = async (
    w: bigint,
    change: { session?: string; technician?: ParticipantKeys; holder?: ParticipantKeys; device?: string } = {},
  ) => {
    const x = 12_345n;
    const shareA = shareOfA(w, x);
    say({ type: 'secretBegin', share: shareA });
    const answered = said.at(-1);
    if (answered?.type !== 'secretShare') return answered;
    const aad = secretContext(change.session ?? SESSION, change.technician ?? pimKeys, change.holder ?? keys);
    const sides = secretSides(change.device ?? DEVICE);
    const mine = finishAsA({ sides, w, shareA, shareB: answered.share, aad }, x);
    say({ type: 'secretProof', proof: mine?.proofOfA ?? '' });
    await new Promise((resolve) => setImmediate(resolve));
    return said.at(-1);
  };
  const covers = (permission: 'view-screen' | 'give-files') =>
    desk.coveredUntilMs({ id: 'a', participantId: 'pim', permissions: [permission], expiresAtMs: 0 }) !== undefined;
  return { desk, said, say, commands, stops, asked, prove, covers };
}

it('lets in whoever knows the words, and covers what the consent holds and nothing else', async () => {
  const d = door();
  d.say({ type: 'atTheDoor' });
  expect(d.said).toEqual([{ type: 'secretWanted', salt: SALT, triesLeft: 5 }]);
  expect(d.covers('view-screen'), 'before anything was proven').toBe(false);
  expect(await d.prove(right)).toEqual({ type: 'secretResult', isRight: true, triesLeft: 5 });
  expect(d.commands).toMatchObject([{ type: 'beginVisit', participantId: 'pim', wasAsked: false }]);
  expect([d.covers('view-screen'), d.covers('give-files')]).toEqual([true, false]);
  expect(disk.visits).toMatchObject([{ sessionId: SESSION, hasBegun: true }]);
  // Ended at the device a moment later: nothing is covered any longer.
  disk.standing = undefined;
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
      if (disk.standing) disk.standing = { ...disk.standing, triesLeft: 5 };
      expect(await d.prove(right, change)).toMatchObject({ type: 'secretResult', isRight: false });
      expect([d.desk.isProven('pim'), d.covers('view-screen'), d.commands]).toEqual([false, false, []]);
    }
  });

  it('cannot use a proof twice, one that nobody awaits, or one of another exchange', async () => {
    const d = door();
    d.say({ type: 'secretProof', proof: '00'.repeat(32) });
    expect(d.said).toEqual([]);
    await d.prove(wrong);
    const told = d.said.length;
    d.say({ type: 'secretProof', proof: '00'.repeat(32) });
    expect(d.said.length, 'the exchange is over').toBe(told);
    d.say({ type: 'secretBegin', share: 'zz' });
    expect(d.said.at(-1)).toMatchObject({ type: 'secretResult', isRight: false, triesLeft: 3 });
  });
});

it('gives five tries, over as many visits and restarts as anybody likes, and none for breaking off in the middle', async () => {
  for (let visit = 0; visit < 2; visit++) {
    const d = door();
    await d.prove(wrong);
    // Begun and never finished: counted all the same.
    d.say({ type: 'secretBegin', share: shareOfA(wrong, 7n) });
  }
  const last = door();
  expect(await last.prove(wrong)).toEqual({ type: 'secretResult', isRight: false, triesLeft: 0 });
  expect(await last.prove(right), 'not even with the right words').toEqual({
    type: 'secretResult',
    isRight: false,
    triesLeft: 0,
  });
  last.say({ type: 'askWhoIsThere' });
  last.say({ type: 'askWhoIsThere' });
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
