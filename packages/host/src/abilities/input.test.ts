import { Listeners, type LiveConnection, type LiveEvents } from '@porch/client';
import { newSession, type SessionState } from '@porch/core';
import { fakeKit } from '@porch/testkit/fake-kit';
import { participantOf } from '@porch/testkit/participant';
import {
  decodeFrame,
  decodeWords,
  encodeWords,
  inputChannel,
  makeKeys,
  PairwiseChannel,
  type InputAct,
  type InputMessage,
  realClock,
  realRandomness,
} from '@porch/wire';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { GrantBook } from '../consent/grant-book.ts';
import type { HandsPort } from '../ports/desktop-ports.ts';
import { LeaseKeeper, LOCAL_PAUSE_MS } from './input.ts';

const SESSION = '00000000-0000-4000-8000-000000000001';
const [doorstepKeys, pimKeys] = [makeKeys(), makeKeys()];
/** A lease keeper with a desktop that only remembers, and a technician at the other end of the line. */
function setUp() {
  const listeners = new Listeners<LiveEvents>();
  const answers: InputMessage[] = [];
  const done: string[] = [];
  let onLocalInput: () => void = () => undefined;
  const technician = new PairwiseChannel({
    sessionId: SESSION,
    mine: pimKeys,
    mySeat: 1,
    theirAgreeKey: doorstepKeys.agreeKey,
    theirStartId: doorstepKeys.startId,
    theirSeat: 2,
    channel: 'input',
  });
  const state: SessionState = {
    ...newSession,
    participants: {
      pim: participantOf('pim', 1, 'lead', { keys: pimKeys }),
      me: participantOf('me', 2, 'doorstep', { keys: doorstepKeys }),
    },
  };
  const connection = {
    clock: realClock,
    random: realRandomness,
    on: listeners.on.bind(listeners),
    state,
    keys: doorstepKeys,
    sessionId: SESSION,
    seat: 2,
    get serviceNowMs() {
      return Date.now();
    },
    sendFrame: (bytes: Uint8Array) => answers.push(decodeWords(inputChannel, technician.open(bytes).plain)) > 0,
  } as unknown as LiveConnection;
  const hands = {
    movePointer: (x: number, y: number) => done.push(`move ${x} ${y}`),
    button: (b: string, isDown: boolean) => done.push(`${b} ${isDown ? 'down' : 'up'}`),
    wheel: (x: number, y: number) => done.push(`wheel ${x} ${y}`),
    key: async (k: string, isDown: boolean) => void done.push(`${k} ${isDown ? 'down' : 'up'}`),
    type: async (t: string, may: () => boolean) => {
      if (may()) done.push(`type ${t}`);
      return may() ? [...t].length : 0;
    },
    answers: () => world.answers(),
    releaseAll: () => done.push('release all'),
  } as unknown as HandsPort;
  const grants = new GrantBook(doorstepKeys, SESSION, 0);
  const {
    kit,
    facts: reported,
    world: held,
  } = fakeKit(connection, grants, {
    person: {
      ask: () => Promise.resolve(undefined),
      onLocalInput: (l) => ((onLocalInput = l), () => undefined),
    },
  });
  const facts = reported as { type: string; why?: string }[];
  const world = {
    answers: () => Promise.resolve(),
    replacedAtMs: undefined as number | undefined,
    generation: 1,
  };
  kit.shared.aim = () => ({
    generation: world.generation,
    monitor: { x: 0, y: 0, width: 100, height: 100 },
    newest: 1,
    replacedAtMs: () => world.replacedAtMs,
  });
  const keeper = new LeaseKeeper(kit, hands);
  const send = (message: InputMessage, generation = 1, channel = technician) => {
    const bytes = channel.seal(encodeWords(message), 0, generation);
    listeners.emit('frame', { frame: decodeFrame(bytes), bytes });
  };
  const leaseId = () => {
    const opened = answers.findLast((a) => a.type === 'leaseOpened');
    return opened?.type === 'leaseOpened' ? opened.lease : '';
  };
  let number = 0;
  const act = async (a: InputAct, change: { number?: number; generation?: number } = {}) => {
    send(
      { type: 'input', lease: leaseId(), number: change.number ?? ++number, aimedAtUpdate: 5, act: a },
      change.generation ?? 1,
    );
    await vi.advanceTimersByTimeAsync(0);
  };
  const allow = () =>
    ['view-screen' as const, 'control-input' as const].forEach((p) => grants.grant(p, pimKeys, Date.now() + 1e9));
  const open = () => {
    allow();
    send({ type: 'openLease' });
  };
  return {
    listeners,
    answers,
    facts,
    done,
    grants,
    held,
    world,
    keeper,
    send,
    act,
    open,
    allow,
    leaseId,
    localInput: () => onLocalInput(),
    dropped: () => answers.flatMap((a) => (a.type === 'inputDropped' ? [a.why] : [])),
  };
}
const press: InputAct = { act: 'key', key: 'a', isDown: true };
const letGo: InputAct = { act: 'key', key: 'a', isDown: false };

describe('an input lease', () => {
  let s: ReturnType<typeof setUp>;
  beforeEach(() => {
    vi.useFakeTimers();
    s = setUp();
  });
  afterEach(() => {
    s.keeper.close();
    vi.useRealTimers();
  });

  it('opens nothing, and ends what is open, while something else holds everybody back', async () => {
    const t = setUp();
    t.held.pausedBy = 'they are doing something private';
    t.open();
    expect(t.answers.at(-1)).toMatchObject({ type: 'leaseClosed', why: 'they are doing something private' });
    expect(t.keeper.isOpen).toBe(false);
    expect(t.facts.map((f) => f.type)).toEqual([]);
    t.held.pausedBy = undefined;
    t.open();
    await t.act({ act: 'button', x: 5, y: 5, button: 'left', isDown: true });
    t.held.pausedBy = 'nobody is at their computer';
    t.keeper.check();
    expect(t.keeper.isOpen).toBe(false);
    expect(t.done.at(-1)).toBe('release all');
    t.keeper.close();
  });

  it('is not opened without a grant of our own, and not even answered', () => {
    s.send({ type: 'openLease' });
    expect([s.answers, s.facts, s.keeper.isOpen]).toEqual([[], [], false]);
  });
  it('does what comes in it, in order, within the display', async () => {
    s.open();
    for (const a of [
      { act: 'move', x: 500, y: 5 },
      { act: 'button', x: 1, y: 2, button: 'left', isDown: true },
      { act: 'button', x: 1, y: 2, button: 'left', isDown: false },
      { act: 'wheel', x: 3, y: 3, stepsX: 0, stepsY: -2 },
      press,
      letGo,
      { act: 'text', text: 'åé' },
    ] as InputAct[])
      await s.act(a);
    expect(s.done).toEqual([
      'move 99 5',
      'move 1 2',
      'left down',
      'move 1 2',
      'left up',
      'move 3 3',
      'wheel 0 -2',
      'a down',
      'a up',
      'type åé',
    ]);
    s.keeper.end('over');
    expect(s.facts.at(-1)).toMatchObject({ type: 'stopControl', clicks: 1, keys: 3 });
  });
  it('ends when a number is missing, and nothing is done after that', async () => {
    s.open();
    await s.act(press, { number: 2 });
    expect([s.done, s.facts.at(-1)?.why, s.keeper.isOpen]).toEqual([['release all'], 'messages are missing', false]);
    await s.act(press);
    expect(s.done).toEqual(['release all']);
  });
  it('drops what was aimed at an old picture or another size, and says why', async () => {
    s.open();
    s.world.replacedAtMs = performance.now() - 2_500;
    await s.act(press);
    s.world.replacedAtMs = performance.now() - 1_000;
    await s.act(press, { generation: 2 });
    await s.act(press);
    expect([s.done, s.dropped()]).toEqual([
      ['a down'],
      ['your picture was too old', 'the screen has another size now'],
    ]);
  });
  it('does nothing while a question is open, but lets go of what is down', async () => {
    s.open();
    await s.act(press);
    s.held.isAsking = true;
    await s.act({ act: 'text', text: 'yes' });
    await s.act(letGo);
    expect(s.done.filter((d) => d !== 'release all')).toEqual(['a down', 'a up']);
    expect(s.dropped()).toEqual(['a question is open on their screen']);
  });
  it('waits a second after the person used their own hand, and lets go of everything at once', async () => {
    s.open();
    await s.act(press);
    s.localInput();
    expect(s.done.at(-1)).toBe('release all');
    await s.act({ act: 'text', text: 'x' });
    expect(s.answers.filter((a) => a.type === 'inputPaused')).toHaveLength(2);
    expect(s.done).not.toContain('type x');
    s.send({ type: 'keepLease', lease: s.leaseId() });
    await vi.advanceTimersByTimeAsync(LOCAL_PAUSE_MS);
    await s.act({ act: 'text', text: 'y' });
    expect(s.done.at(-1)).toBe('type y');
  });
  it.each<[string, (x: ReturnType<typeof setUp>) => void | Promise<void>, string]>([
    ['the grant is gone', (x) => (x.grants.dropAll(), x.keeper.check()), 'it is not allowed any longer'],
    ['the line is gone', (x) => x.listeners.emit('status', 'waiting'), 'the line is gone'],
    [
      'nothing is heard',
      async () => void (await vi.advanceTimersByTimeAsync(3_500)),
      'nothing was heard from the technician',
    ],
    ['the technician lets go', (x) => x.send({ type: 'closeLease', lease: x.leaseId() }), 'the technician let go'],
    ['another lease is opened', (x) => x.send({ type: 'openLease' }), 'another lease was opened'],
    ['Doorstep closes', (x) => x.keeper.close(), 'Doorstep closed'],
  ])('ends and lets go of everything when %s', async (_what, happen, why) => {
    s.open();
    await s.act(press);
    await happen(s);
    expect(s.done).toContain('release all');
    expect(s.facts.findLast((f) => f.type === 'stopControl')?.why).toBe(why);
  });
  it('takes nothing for a lease that is over, from another key, or twice', async () => {
    s.open();
    const old = s.leaseId();
    s.send({ type: 'openLease' });
    s.send({ type: 'input', lease: old, number: 1, aimedAtUpdate: 5, act: press });
    const stranger = new PairwiseChannel({
      sessionId: SESSION,
      mine: makeKeys(),
      mySeat: 1,
      theirAgreeKey: doorstepKeys.agreeKey,
      theirStartId: doorstepKeys.startId,
      theirSeat: 2,
      channel: 'input',
    });
    s.send({ type: 'input', lease: s.leaseId(), number: 1, aimedAtUpdate: 5, act: press }, 1, stranger);
    await vi.advanceTimersByTimeAsync(0);
    expect(s.done).toEqual(['release all']);
    expect(s.keeper.isOpen).toBe(true);
  });
});
