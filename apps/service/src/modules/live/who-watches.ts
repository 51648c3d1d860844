import { consentHolderOf, mayWatch, participantAt, type SessionState } from '@porch/core';
import type { Peer } from './peer.ts';
import { streamKey, type StreamName, type Watching } from './picture-relay.ts';

/** A display of this seat, or of whoever holds the consent just now where nobody is named. */
export function streamOf(state: SessionState, from: number | undefined, display: number): StreamName | undefined {
  const seat = from ?? consentHolderOf(state)?.seat;
  return seat === undefined ? undefined : { seat, display };
}

/** Each stream once, though it is wanted by its sender's seat and as the holder's, too. */
function wantedBy(peer: Peer, state: SessionState): StreamName[] {
  const named = [...peer.watched.values()].flatMap(({ from, display }) => streamOf(state, from, display) ?? []);
  const once = new Map(named.map((name) => [streamKey(name), name]));
  return [...once.values()].sort((a, b) => a.seat - b.seat || a.display - b.display);
}

/** Who may look in this moment, and at what of what they want to see. */
export function whoWatches(peers: Iterable<Peer>, state: SessionState, nowMs: number): Watching[] {
  return [...peers]
    .filter((peer) => peer.watched.size > 0)
    .map((peer) => ({
      peer,
      streams: wantedBy(peer, state).filter(({ seat }) =>
        mayWatch(state, peer.participantId, participantAt(state, seat)?.id ?? '', nowMs),
      ),
    }))
    .filter(({ streams }) => streams.length > 0);
}
