import { evolveSession, isRefusal, newSession, type Participant, type SessionState } from '@porch/core';
import { runs } from '@porch/testkit/seeds';
import { participantOf } from '@porch/testkit/participant';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import fc from 'fast-check';
import pino from 'pino';
import { describe, expect, it } from 'vitest';
import { Background } from '../../module/background.ts';
import type { OpenSession } from '../../module/open-session.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import type { Peer } from './peer.ts';
import { Room } from './room.ts';

/* Who is expected back, and what is due, in time that a test moves: no line, no records, nothing waits. */
const GRACE_MS = 60_000;

/** Records that can be away, and hold what was written. */
class World {
  readonly clock = new VirtualClock();
  readonly left: string[] = [];
  areRecordsAway = false;
  tries = 0;
  session: OpenSession;
  readonly room: Room;

  constructor() {
    const participants = {
      pim: participantOf('pim', 1, 'lead'),
      bettina: participantOf('bettina', 2, 'doorstep'),
    };
    const state: SessionState = { ...newSession, hasAccepted: true, holderId: 'bettina', participants };
    this.session = { id: 's', seq: 0, state, entries: [], rows: [], asides: [], asideRows: [] };
    const log = pino({ level: 'silent' });
    this.room = new Room(this.session, {
      book: { act: (_id: string, decide: Decide) => this.#act(decide) } as unknown as SessionBook,
      log,
      background: new Background(log),
      graceMs: () => GRACE_MS,
      restartLateMs: () => GRACE_MS,
      clock: this.clock,
      onChanged: () => undefined,
      onEmpty: () => undefined,
    });
  }

  /** Somebody's line, as far as a room needs one. */
  line(participantId: 'pim' | 'bettina'): Peer {
    const { side, seat } = this.#person(participantId);
    const peer = { participantId, side, seat, watched: new Map(), held: new Map(), sentSeq: 0, sentAsideSeq: 0 };
    return Object.assign(peer, { send: () => undefined, close: () => undefined }) as unknown as Peer;
  }

  async pass(ms: number): Promise<void> {
    this.clock.advance(ms);
    for (let i = 0; i < 10; i++) await Promise.resolve(); // What was due is written without any wait.
  }

  async #act(decide: Decide): Promise<OpenSession> {
    this.tries++;
    if (this.areRecordsAway) throw new Error('the records are away');
    const decision = await decide(this.session, this.clock.wallMs(), undefined as never);
    if (isRefusal(decision)) throw new Error(JSON.stringify(decision));
    for (const event of decision) {
      if (event.type === 'participantLeft') this.left.push(event.participantId);
      this.session = { ...this.session, state: evolveSession(this.session.state, event, this.clock.wallMs()) };
    }
    if (decision.length) this.room.handleAppended(this.session);
    return this.session;
  }

  #person(id: string): Participant {
    const found = this.session.state.participants[id];
    if (!found) throw new Error(`nobody is called ${id}`);
    return found;
  }
}
type Decide = Parameters<SessionBook['act']>[1];

describe('a place in a session whose line is lost', () => {
  it('is kept for its time, to the millisecond, and given up then', async () => {
    const world = new World();
    const [pim, bettina] = [world.line('pim'), world.line('bettina')];
    world.room.enter(pim, 0);
    world.room.enter(bettina, 0);
    await world.pass(10 * GRACE_MS);
    expect(world.left, 'whoever is here is not given up').toEqual([]);
    world.room.leave(pim);
    await world.pass(GRACE_MS - 1);
    expect(world.left).toEqual([]);
    await world.pass(1);
    expect(world.left).toEqual(['pim']);
  });

  it('is given up as soon as the records can be written, and the tries become seldomer', async () => {
    const world = new World();
    world.room.enter(world.line('bettina'), 0);
    world.areRecordsAway = true;
    for (let i = 0; i < 10 * 60; i++) await world.pass(100 + GRACE_MS / 600);
    expect(world.tries).toBeGreaterThan(3);
    expect(world.tries, 'of 600 chances').toBeLessThan(20);
    world.areRecordsAway = false;
    await world.pass(10_000);
    expect(world.left).toEqual(['pim']);
    const triesThen = world.tries;
    await world.pass(10 * GRACE_MS);
    expect(world.tries, 'and then there is an end').toBe(triesThen);
  });

  it('is not given up by a room that was closed', async () => {
    const world = new World();
    world.room.close('STOPPING');
    await world.pass(10 * GRACE_MS);
    expect(world.tries).toBe(0);
  });

  it('is lost only by whoever was away for the whole of it, however lines come and go', async () => {
    const step = fc.record({ who: fc.constantFrom('pim' as const, 'bettina' as const), waitMs: fc.nat(GRACE_MS) });
    await fc.assert(
      fc.asyncProperty(fc.array(step, { maxLength: 20 }), async (steps) => {
        const world = new World();
        const lines = new Map<string, Peer>();
        const awaySinceMs = new Map([
          ['pim', world.clock.wallMs()],
          ['bettina', world.clock.wallMs()],
        ]);
        for (const { who, waitMs } of steps) {
          const line = lines.get(who);
          if (line) {
            world.room.leave(line);
            lines.delete(who);
            awaySinceMs.set(who, world.clock.wallMs());
          } else if (!world.left.includes(who)) {
            const fresh = world.line(who);
            lines.set(who, fresh);
            world.room.enter(fresh, 0);
          }
          await world.pass(waitMs);
          for (const id of ['pim', 'bettina']) {
            const awayMs = world.clock.wallMs() - (awaySinceMs.get(id) ?? 0);
            expect(world.left.includes(id)).toBe(!lines.has(id) && awayMs >= GRACE_MS);
          }
        }
      }),
      runs(),
    );
  });
});
