import { Listeners, type LiveConnection, type LiveEvents } from '@porch/client';
import { newSession, type PermissionStanding, type Resting, type SessionState } from '@porch/core';
import { fakeKit } from '@porch/testkit/fake-kit';
import { participantOf } from '@porch/testkit/participant';
import { runs } from '@porch/testkit/seeds';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import { encodeWords, decodeFrame, makeKeys, PairwiseChannel } from '@porch/wire';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { GrantBook, type RestingListener } from '../index.ts';
import { handsOff } from './hands-off.ts';

const SESSION = '00000000-0000-4000-8000-000000000001';
const [pimKeys, myKeys] = [makeKeys(), makeKeys()];
const FIVE_MINUTES_MS = 300_000;

/** The ability with a port that does what it is told, and a technician at the end of a sealed line. */
class World {
  readonly time = new VirtualClock();
  /** What rests just now, as the port has it, and how to say that it ended. */
  readonly on = new Map<Resting, RestingListener>();
  readonly grants = new GrantBook(myKeys, SESSION, 0);
  readonly facts;
  readonly world;
  readonly stops;
  readonly running;
  readonly connection: LiveConnection;
  readonly #kit;
  readonly #listeners = new Listeners<LiveEvents>();
  readonly #line = new PairwiseChannel({
    sessionId: SESSION,
    mine: pimKeys,
    mySeat: 1,
    theirAgreeKey: myKeys.agreeKey,
    theirStartId: myKeys.startId,
    theirSeat: 2,
    channel: 'hands-off',
  });

  constructor() {
    const { time, on } = this;
    const state: SessionState = {
      ...newSession,
      identity: 'confirmed-by-ticket',
      holderId: 'me',
      participants: {
        pim: participantOf('pim', 1, 'lead', { keys: pimKeys }),
        me: participantOf('me', 2, 'doorstep', { keys: myKeys }),
      },
    };
    this.connection = {
      sessionId: SESSION,
      participantId: 'me',
      keys: myKeys,
      seat: 2,
      state,
      status: 'live',
      get serviceNowMs() {
        return time.nowMs();
      },
      on: this.#listeners.on.bind(this.#listeners),
    } as unknown as LiveConnection;
    const port = {
      canCover: true,
      begin: (what: Resting, _words: unknown, forMs: number, listener: RestingListener) => {
        expect(on.has(what), 'one of a kind').toBe(false);
        expect(forMs).toBeLessThanOrEqual(FIVE_MINUTES_MS);
        on.set(what, listener);
        queueMicrotask(() => listener.inForce());
        return { end: () => Promise.resolve(void on.delete(what)) };
      },
    };
    const { kit, facts, stops, world } = fakeKit(this.connection, this.grants, { handsOff: port }, undefined, time);
    this.#kit = kit;
    this.facts = facts;
    this.stops = stops;
    this.world = world;
    this.running = handsOff.begin(kit);
  }

  allow(...permissions: ('control-input' | 'block-input' | 'cover-screen')[]): void {
    const nowMs = this.time.nowMs();
    const endsAtMs = nowMs + FIVE_MINUTES_MS;
    const standing: PermissionStanding = { name: 'allowed', grantNumber: 1, endsAtMs };
    for (const permission of permissions) {
      this.grants.grant(permission, pimKeys, endsAtMs, nowMs);
      const { state } = this.connection;
      this.become({ standings: { pim: { ...state.standings['pim'], [permission]: standing } } });
    }
  }
  keep(): void {
    const bytes = this.#line.seal(encodeWords({ type: 'keep' }), 0, 1);
    this.#listeners.emit('frame', { frame: decodeFrame(bytes), bytes });
  }
  /** The technician's program is there for so long. */
  passes(ms: number): void {
    for (let left = ms; left > 0; left -= 1_000) {
      this.keep();
      this.time.advance(Math.min(1_000, left));
    }
  }
  become(change: Partial<SessionState>): void {
    Object.assign(this.connection, { state: { ...this.connection.state, ...change } });
    this.changed();
  }
  changed(): void {
    this.#kit.held.follow();
    this.running.changed?.();
  }
  get rests(): Resting[] {
    return [...this.on.keys()].sort();
  }
  told = (type: string) => this.facts.filter((fact) => fact.type === type);
}

const begun = () => new Promise((resolve) => setImmediate(resolve));
const working = async () => {
  const w = new World();
  w.allow('control-input', 'block-input', 'cover-screen');
  w.keep();
  expect(w.rests).toEqual(['input', 'screen']);
  await begun();
  return w;
};

it('begins with a yes and a sign of life, and is over for good without one', async () => {
  const w = new World();
  w.allow('control-input', 'block-input');
  expect(w.rests).toEqual([]);
  w.keep();
  expect(w.rests).toEqual(['input']);
  await begun();
  w.passes(20_000);
  expect(w.rests).toEqual(['input']);
  w.time.advance(3_500);
  expect(w.rests).toEqual([]);
  w.keep();
  expect(w.rests).toEqual([]);
  expect(w.told('hands-off/tellEnded')).toMatchObject([
    { what: 'input', why: 'nothing was heard from the technician' },
  ]);
  expect(w.told('withdrawPermission')).toMatchObject([{ permission: 'block-input' }]);
});

it('is interrupted by a question and a private moment, and goes on after them within its time', async () => {
  const w = await working();
  w.world.isAsking = true;
  w.changed();
  expect(w.rests).toEqual([]);
  w.world.isAsking = false;
  w.keep();
  expect(w.rests).toEqual(['input', 'screen']);
  w.world.pausedBy = 'they are doing something private';
  w.changed();
  expect(w.rests).toEqual([]);
  w.world.pausedBy = undefined;
  w.keep();
  expect(w.rests).toEqual(['input', 'screen']);
  w.passes(FIVE_MINUTES_MS);
  expect(w.rests).toEqual([]);
  expect(w.told('withdrawPermission')).toEqual([]);
});

it.each<[string, (w: World) => void, Resting[]]>([
  ['the key lifts both', (w) => w.on.get('input')?.lifted('key'), []],
  ['Stop lifts both', (w) => w.on.get('screen')?.lifted('stop'), []],
  ['its process went', (w) => w.on.get('screen')?.over('killed'), ['input']],
  ['the line is gone', (w) => Object.assign(w.connection, { status: 'waiting' }), []],
  ['somebody unconfirmed came in for the customer', (w) => w.become({ identity: 'said-so-themselves' }), []],
  ['control was taken back', (w) => w.grants.drop('control-input', pimKeys.signKey), []],
  ['another program holds the consent', (w) => w.become({ holderId: 'another' }), []],
])('when %s it does not come back by itself', async (how, happen, left) => {
  const w = await working();
  happen(w);
  w.changed();
  expect(w.rests).toEqual(left);
  Object.assign(w.connection, { status: 'live' });
  w.become({ identity: 'confirmed-by-ticket', holderId: 'me' });
  w.passes(5_000);
  expect(w.rests).toEqual(left);
  expect(w.stops.length).toBe(how.startsWith('Stop') ? 1 : 0);
});

it('rests only while everything that it rests on holds, in whatever order things happen', () => {
  const step = fc.constantFrom(
    'keep',
    'keep',
    'keep',
    'allow',
    'wait',
    'silence',
    'ask',
    'answer',
    'drop',
    'lift',
    'line',
    'late',
  );
  fc.assert(
    fc.property(fc.array(step, { maxLength: 40 }), (steps) => {
      const w = new World();
      let [heardAtMs, isLive] = [-Infinity, true];
      for (const one of steps) {
        if (one === 'keep') {
          heardAtMs = w.grants.holdsAny('block-input', w.time.nowMs()) ? w.time.nowMs() : heardAtMs;
          w.keep();
        } else if (one === 'allow') w.allow('control-input', 'block-input');
        else if (one === 'wait') w.time.advance(900);
        else if (one === 'silence') w.time.advance(4_000);
        else if (one === 'late') w.time.advance(FIVE_MINUTES_MS);
        else if (one === 'ask' || one === 'answer') w.world.isAsking = one === 'ask';
        else if (one === 'drop') w.grants.dropAll();
        else if (one === 'lift') w.on.get('input')?.lifted('key');
        else {
          isLive = !isLive;
          Object.assign(w.connection, { status: isLive ? 'live' : 'waiting' });
        }
        w.changed();
        if (!w.rests.length) continue;
        expect(isLive && !w.world.isAsking && w.grants.holdsAny('block-input', w.time.nowMs())).toBe(true);
        expect(w.time.nowMs() - heardAtMs).toBeLessThanOrEqual(3_250);
      }
    }),
    runs(),
  );
});
