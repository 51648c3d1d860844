import { mayShow, partMay, UNKNOWN_PART, type PartAction, type SessionState } from '@porch/core';
import { AppError, frameKinds, type ClientMessage, type Clock, type Frame } from '@porch/wire';
import type { Peer } from './peer.ts';
import { MAX_WATCHED, PictureRelay, rowsFor } from './picture-relay.ts';
import { streamOf, whoWatches } from './who-watches.ts';

/** Who shows and who sees what in one session, and what passes between them. */
export class Pictures {
  readonly #clock: Clock;
  readonly #relay: PictureRelay;
  readonly #peers: () => Iterable<Peer>;
  readonly #state: () => SessionState;
  /** What each source was told last of who looks. */
  readonly #told = new Map<Peer, string>();

  constructor(clock: Clock, peers: () => Iterable<Peer>, state: () => SessionState) {
    this.#clock = clock;
    this.#relay = new PictureRelay(clock);
    this.#peers = peers;
    this.#state = state;
  }

  /** Somebody came or went, or something was allowed or taken back: it takes effect in this very moment. */
  update(): void {
    const peers = [...this.#peers()];
    const sources = peers.filter((peer) => this.#mayShow(peer));
    const viewers = whoWatches(peers, this.#state(), this.#clock.wallMs());
    for (const source of sources) this.#tell(source, rowsFor(source, viewers));
    for (const told of this.#told.keys()) {
      if (sources.includes(told)) continue;
      // They are here, and may not show it any longer.
      if (peers.includes(told)) this.#tell(told, []);
      this.#told.delete(told);
    }
    this.#relay.setViewers(viewers, sources);
  }

  lost(peer: Peer): void {
    this.#relay.sourceLost(peer);
  }

  takeWatch(peer: Peer, { from, display, isOn }: Extract<ClientMessage, { type: 'watch' }>): void {
    if (!this.#may(peer, 'watch a picture')) throw new AppError('MESSAGE_INVALID');
    const key = `${from ?? ''}|${display}`;
    // Bounded when it is said, whatever is allowed later.
    if (isOn && peer.watched.size >= MAX_WATCHED && !peer.watched.has(key)) throw new AppError('TOO_MANY_DISPLAYS');
    if (isOn) peer.watched.set(key, { from, display });
    else peer.watched.delete(key);
    this.update();
  }

  /** A message of the screen or cursor channel. */
  takeFrame(peer: Peer, frame: Frame, bytes: Uint8Array): void {
    if (frame.channel === 'screen' && frame.kind === frameKinds.screen.holds) {
      const name = streamOf(this.#state(), frame.receiverSeat || undefined, frame.display);
      if (name) this.#relay.takeHolds(frame, name, peer);
      return;
    }
    if (this.#mayShow(peer)) this.#relay.takeFromSource(frame, bytes);
    // What was on its way when Doorstep came, or when it was taken back, is nobody's any longer.
    else if (!this.#may(peer, 'show a picture') && !this.#may(peer, 'show their own screen'))
      throw new AppError('MESSAGE_INVALID');
  }

  /** This one's line can take more. */
  pump(peer: Peer): void {
    this.#relay.pump(peer);
  }

  #tell(source: Peer, rows: ReturnType<typeof rowsFor>): void {
    const key = JSON.stringify(rows);
    if (this.#told.get(source) !== key) source.send({ type: 'viewers', viewers: rows });
    this.#told.set(source, key);
  }

  #may({ participantId }: Peer, action: PartAction): boolean {
    return partMay(this.#state().participants[participantId]?.part ?? UNKNOWN_PART, action);
  }
  #mayShow({ participantId }: Peer): boolean {
    return mayShow(this.#state(), participantId, this.#clock.wallMs());
  }
}
