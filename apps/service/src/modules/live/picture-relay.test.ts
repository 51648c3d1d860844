import { decodeFrame, encodeFrame, EVERY_VIEWER, frameKinds, realClock, type Frame } from '@porch/wire';
import { codeOf } from '@porch/testkit/failure';
import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Peer } from './peer.ts';
import { PictureRelay, rowsFor, type StreamName, type Watching } from './picture-relay.ts';

/* Who may look gets what the source sends, and from the moment they may not, not one byte more. */
class FakePeer {
  readonly seat: number;
  readonly got: Frame[] = [];
  readonly held = new Map();
  hasRoom = true;
  constructor(seat: number) {
    this.seat = seat;
  }
  sendFrame(bytes: Uint8Array): boolean {
    this.got.push(decodeFrame(bytes));
    return true;
  }
  get asPeer(): Peer {
    return this as unknown as Peer;
  }
}
function frame(change: Partial<Frame> = {}): { frame: Frame; bytes: Uint8Array } {
  const bytes = encodeFrame({
    channel: 'cursor',
    kind: frameKinds.cursor.position,
    display: 0,
    senderSeat: 9,
    receiverSeat: EVERY_VIEWER,
    epoch: 1,
    displayGeneration: 1,
    counter: 1n,
    payload: new Uint8Array(40),
    ...change,
  });
  return { frame: decodeFrame(bytes), bytes };
}
const send = (relay: PictureRelay, change: Partial<Frame> = {}) => {
  const { frame: f, bytes } = frame(change);
  relay.takeFromSource(f, bytes);
};
const pictures = (peer: FakePeer) => peer.got.filter(({ channel }) => channel === 'cursor');
const watching = (peer: FakePeer, ...streams: StreamName[]): Watching => ({ peer: peer.asPeer, streams });
const of9 = { seat: 9, display: 0 };

describe('the relay', () => {
  it('passes each display of each sender on to exactly those who look at it now, whoever comes and goes', () => {
    const stream = fc.record({ seat: fc.constantFrom(8, 9), display: fc.nat(2) });
    const look = fc.record({
      seat: fc.nat(3),
      streams: fc.uniqueArray(stream, { minLength: 1, maxLength: 4, selector: (s) => `${s.seat}|${s.display}` }),
    });
    const step = fc.oneof(
      fc.record({
        do: fc.constant('look' as const),
        who: fc.uniqueArray(look, { maxLength: 4, selector: (l) => l.seat }),
      }),
      fc.record({ do: fc.constant('send' as const), from: fc.constantFrom(8, 9), display: fc.nat(3) }),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 30 }), (steps) => {
        const relay = new PictureRelay(realClock);
        const sources = [new FakePeer(8).asPeer, new FakePeer(9).asPeer];
        const peers = Array.from({ length: 4 }, (_, seat) => new FakePeer(seat));
        let viewers: Watching[] = [];
        let counter = 0n;
        for (const s of steps)
          if (s.do === 'look') {
            viewers = s.who.map(({ seat, streams }) => watching(peers[seat] as FakePeer, ...streams));
            relay.setViewers(viewers, sources);
          } else {
            const before = peers.map((peer) => pictures(peer).length);
            send(relay, { senderSeat: s.from, display: s.display, counter: ++counter });
            for (const [seat, peer] of peers.entries()) {
              const isLooking = viewers.some(
                (v) =>
                  v.peer === peer.asPeer && v.streams.some((one) => one.seat === s.from && one.display === s.display),
              );
              expect(pictures(peer).length - (before[seat] ?? 0)).toBe(isLooking ? 1 : 0);
            }
          }
      }),
      runs(),
    );
  });

  it('shows a newcomer the cursor as it is, and asks the source for the rest', () => {
    const relay = new PictureRelay(realClock);
    const [source, pim, rune] = [new FakePeer(9), new FakePeer(1), new FakePeer(2)];
    relay.setViewers([watching(pim, of9)], [source.asPeer]);
    expect(source.got.map(({ kind }) => kind)).toContain(frameKinds.screen.want);
    send(relay, { kind: frameKinds.cursor.shape, counter: 1n });
    send(relay, { kind: frameKinds.cursor.position, counter: 2n });
    const looking = [watching(rune, of9, { seat: 1, display: 2 }), watching(pim, of9)];
    relay.setViewers(looking, [source.asPeer]);
    expect(pictures(rune).map(({ counter }) => counter)).toEqual([1n, 2n]);
    expect(rowsFor(source.asPeer, looking), 'each source hears of its own').toEqual([
      { seat: 1, displays: [0] },
      { seat: 2, displays: [0] },
    ]);
    expect(rowsFor(pim.asPeer, looking)).toEqual([{ seat: 2, displays: [2] }]);
  });

  it('asks a source that comes anew, and keeps nothing of a display that nobody looks at', () => {
    const relay = new PictureRelay(realClock);
    const [first, second, pim] = [new FakePeer(9), new FakePeer(9), new FakePeer(1)];
    const viewers = [watching(pim, of9)];
    relay.setViewers(viewers, [first.asPeer]);
    send(relay, { counter: 1n });
    relay.sourceLost(first.asPeer);
    relay.setViewers(viewers, [second.asPeer]);
    expect(second.got.length).toBeGreaterThan(0);
    relay.setViewers([], [second.asPeer]);
    relay.setViewers(viewers, [second.asPeer]);
    expect(
      pictures(pim).map(({ counter }) => counter),
      'the old cursor went with the display',
    ).toEqual([1n]);
  });

  it('refuses what no source and no viewer says, and a display that nobody looks at is no fault', () => {
    const relay = new PictureRelay(realClock);
    const [source, pim] = [new FakePeer(9), new FakePeer(1)];
    relay.setViewers([watching(pim, of9)], [source.asPeer]);
    expect(codeOf(() => send(relay, { receiverSeat: 1 }))).toBe('MESSAGE_INVALID');
    expect(codeOf(() => send(relay, { display: 7 }))).toBe('no failure');
    const broken = { channel: 'screen', kind: frameKinds.screen.whole, payload: new Uint8Array(40).fill(255) } as const;
    expect(codeOf(() => send(relay, broken))).toBe('MESSAGE_INVALID');
    expect(codeOf(() => send(relay, { channel: 'screen', kind: frameKinds.screen.want }))).toBe('MESSAGE_INVALID');
    const holds = frame({ channel: 'screen', kind: frameKinds.screen.holds, payload: new Uint8Array(3) }).frame;
    expect(codeOf(() => relay.takeHolds(holds, of9, pim.asPeer))).toBe('MESSAGE_INVALID');
    expect(pictures(pim)).toEqual([]);
  });
});
