import {
  decodeClear,
  decodeVersionTable,
  encodeVersionTable,
  encodeWanted,
  PictureError,
  RelayStore,
} from '@porch/screen';
import type { UnitClear, VersionTable, ViewerFeed } from '@porch/screen';
import {
  AppError,
  encodeRelayFrame,
  clearOf,
  EVERY_VIEWER,
  frameKinds,
  type Frame,
  type ViewerRow,
  type Clock,
} from '@porch/wire';
import type { Peer } from './peer.ts';

/** A desktop has a handful of displays, each with a thumbnail; more is not a desktop. */
export const MAX_WATCHED = 32;

/** One picture: who sends it, and which of their displays it is. */
export interface StreamName {
  readonly seat: number;
  readonly display: number;
}
export const streamKey = ({ seat, display }: StreamName): string => `${seat}|${display}`;

export interface Watching {
  readonly peer: Peer;
  readonly streams: readonly StreamName[];
}

interface Stream extends StreamName {
  readonly store: RelayStore;
  readonly viewers: Map<Peer, ViewerFeed>;
  readonly peers: Map<ViewerFeed, Peer>;
  cursorShape: Uint8Array | undefined;
  cursorPosition: Uint8Array | undefined;
}

/**
 * Passes one session's pictures on to those who may look, whoever sends them. It reads headers and tile sets, and nothing
 * else. Pictures are told apart by who sends them and which display it is.
 */
export class PictureRelay {
  readonly #clock: Clock;
  readonly #streams = new Map<string, Stream>();
  /** Who shows something, by their seat. */
  #sources: ReadonlyMap<number, Peer> = new Map();

  constructor(clock: Clock) {
    this.#clock = clock;
  }

  /** Who may look now, and at what. Whoever is not in the list any longer gets nothing more from this moment on. */
  setViewers(viewers: readonly Watching[], sources: readonly Peer[]): void {
    const before = this.#sources;
    this.#sources = new Map(sources.map((source) => [source.seat, source]));
    const wanted = new Map(viewers.map(({ peer, streams }) => [peer, new Set(streams.map(streamKey))]));
    for (const [key, stream] of this.#streams)
      for (const [peer, feed] of stream.viewers) {
        if (wanted.get(peer)?.has(key)) continue;
        stream.store.removeViewer(feed);
        stream.viewers.delete(peer);
        stream.peers.delete(feed);
        peer.held.delete(key);
      }
    for (const { peer, streams } of viewers)
      for (const name of streams) {
        const stream = this.#stream(name);
        if (!stream.viewers.has(peer)) this.#welcome(stream, peer);
      }
    for (const [key, stream] of this.#streams) {
      const source = this.#sources.get(stream.seat);
      if (!stream.viewers.size) this.#streams.delete(key);
      else if (source && source !== before.get(stream.seat)) this.#greet(stream, source);
    }
  }

  /** Somebody who showed is gone: what they showed is nobody's any longer, but who holds what stays true. */
  sourceLost(source: Peer): void {
    this.#sources = new Map([...this.#sources].filter(([, known]) => known !== source));
  }

  takeFromSource(frame: Frame, bytes: Uint8Array): void {
    if (frame.receiverSeat !== EVERY_VIEWER) throw new AppError('MESSAGE_INVALID');
    const stream = this.#streams.get(streamKey({ seat: frame.senderSeat, display: frame.display }));
    // Nobody looks any longer; the source will hear of it.
    if (!stream) return;
    stream.store.noteEpoch(frame.epoch);
    if (frame.channel === 'cursor') {
      if (frame.kind === frameKinds.cursor.shape) stream.cursorShape = bytes.slice();
      else stream.cursorPosition = bytes.slice();
      for (const peer of stream.viewers.keys()) peer.sendFrame(bytes);
      return;
    }
    if (frame.kind === frameKinds.screen.checkpoint) {
      for (const peer of stream.viewers.keys()) peer.sendFrame(bytes);
      this.#askFor(stream);
      return;
    }
    const isWhole = frame.kind === frameKinds.screen.whole;
    if (!isWhole && frame.kind !== frameKinds.screen.change && frame.kind !== frameKinds.screen.photo)
      throw new AppError('MESSAGE_INVALID');
    const number = Number(frame.counter);
    const clear = readClear(isWhole ? 'whole' : 'change', frame, number);
    let copy: Uint8Array | undefined;
    const unit = {
      clear,
      number,
      generation: frame.displayGeneration,
      epoch: frame.epoch,
      // A copy only of what is kept: the socket's buffer is larger than this message.
      bytes: () => (copy ??= bytes.slice()),
    };
    stream.store.put(unit, (feed) => {
      const peer = stream.peers.get(feed);
      return peer !== undefined && peer.hasRoom && peer.sendFrame(bytes);
    });
    this.#askFor(stream);
  }

  /** A viewer says what it holds of a stream. */
  takeHolds(frame: Frame, name: StreamName, peer: Peer): void {
    const table = readTable(frame.payload);
    const stream = this.#streams.get(streamKey(name));
    const feed = stream?.viewers.get(peer);
    if (stream && feed) stream.store.holds(feed, table);
    else if (peer.held.size < MAX_WATCHED || peer.held.has(streamKey(name))) peer.held.set(streamKey(name), table);
  }

  /** This viewer's line can take more. */
  pump(peer: Peer): void {
    for (const stream of this.#streams.values()) {
      const feed = stream.viewers.get(peer);
      if (feed) this.#pumpOne(stream, peer, feed);
    }
  }

  #stream({ seat, display }: StreamName): Stream {
    const key = streamKey({ seat, display });
    const known = this.#streams.get(key);
    if (known) return known;
    const made: Stream = {
      seat,
      display,
      store: new RelayStore(),
      viewers: new Map(),
      peers: new Map(),
      cursorShape: undefined,
      cursorPosition: undefined,
    };
    this.#streams.set(key, made);
    return made;
  }

  /** Everything is news to a newcomer, but for what they say they hold; what the store lacks the source sends whole. */
  #welcome(stream: Stream, peer: Peer): void {
    const feed = stream.store.addViewer();
    stream.viewers.set(peer, feed);
    stream.peers.set(feed, peer);
    const held = peer.held.get(streamKey(stream));
    if (held) stream.store.holds(feed, held);
    peer.held.delete(streamKey(stream));
    if (stream.cursorShape) peer.sendFrame(stream.cursorShape);
    if (stream.cursorPosition) peer.sendFrame(stream.cursorPosition);
    this.#pumpOne(stream, peer, feed);
    if (!stream.store.table) this.#want(stream, []);
  }

  /** A source that comes back hears what arrived before its line was lost. */
  #greet(stream: Stream, source: Peer): void {
    const { table } = stream.store;
    if (!table) this.#want(stream, []);
    else source.sendFrame(frameTo(source, frameKinds.screen.holds, stream.display, encodeVersionTable(table)));
  }

  #pumpOne(stream: Stream, peer: Peer, feed: ViewerFeed): void {
    while (feed.missing.size) {
      if (!peer.hasRoom) return;
      const bytes = stream.store.next(feed);
      if (!bytes) break;
      peer.sendFrame(bytes);
    }
    this.#askFor(stream);
  }

  /** Asks the source for what somebody with room misses and the store has not. */
  #askFor(stream: Stream): void {
    for (const [peer, feed] of stream.viewers) {
      if (!feed.missing.size || !peer.hasRoom) continue;
      const tiles = stream.store.ask(feed, this.#clock.nowMs());
      if (tiles.length) this.#want(stream, tiles);
    }
  }

  #want({ seat, display }: StreamName, tiles: readonly number[]): void {
    const source = this.#sources.get(seat);
    source?.sendFrame(frameTo(source, frameKinds.screen.want, display, encodeWanted(tiles)));
  }
}

/** Who looks at what this one shows. */
export const rowsFor = (source: Peer, viewers: readonly Watching[]): ViewerRow[] =>
  viewers
    .map(({ peer, streams }) => ({
      seat: peer.seat,
      displays: streams.filter(({ seat }) => seat === source.seat).map(({ display }) => display),
    }))
    .filter(({ displays }) => displays.length > 0)
    .sort((a, b) => a.seat - b.seat);

/** A message of the relay itself: seat 0 as its sender. */
function frameTo(peer: Peer, kind: number, display: number, payload: Uint8Array): Uint8Array {
  return encodeRelayFrame({ channel: 'screen', kind, display, receiverSeat: peer.seat, payload });
}

const readClear = (kind: UnitClear['kind'], frame: Frame, number: number): UnitClear =>
  asMessageInvalid(() => decodeClear(kind, clearOf(frame), number));
const readTable = (payload: Uint8Array): VersionTable => asMessageInvalid(() => decodeVersionTable(payload));

function asMessageInvalid<T>(read: () => T): T {
  try {
    return read();
  } catch (cause) {
    if (cause instanceof PictureError) throw new AppError('MESSAGE_INVALID', {}, { cause });
    throw cause;
  }
}
