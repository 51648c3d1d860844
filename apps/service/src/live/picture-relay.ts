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
  encodeFrame,
  clearOf,
  EVERY_VIEWER,
  frameKinds,
  type Frame,
  type ViewerRow,
  realClock,
  type Clock,
} from '@porch/wire';
import type { Peer } from './peer.ts';

/** A desktop has a handful of displays, each with a thumbnail; more is not a desktop. */
export const MAX_WATCHED_DISPLAYS = 32;

interface DisplayRelay {
  readonly number: number;
  readonly store: RelayStore;
  readonly viewers: Map<Peer, ViewerFeed>;
  readonly peers: Map<ViewerFeed, Peer>;
  cursorShape: Uint8Array | undefined;
  cursorPosition: Uint8Array | undefined;
}

/** Passes one session's pictures on to those who may look. It reads headers and tile sets, and nothing else. */
export class PictureRelay {
  readonly #clock: Clock;
  readonly #displays = new Map<number, DisplayRelay>();
  #source: Peer | undefined;

  constructor(clock: Clock = realClock) {
    this.#clock = clock;
  }

  /** Who may look now, and at what. Whoever is not in the list any longer gets nothing more from this moment on. */
  setViewers(viewers: readonly { peer: Peer; displays: readonly number[] }[], source: Peer | undefined): void {
    const isNewSource = source !== undefined && source !== this.#source;
    this.#source = source;
    for (const display of this.#displays.values())
      for (const [peer, feed] of display.viewers) {
        if (viewers.some((v) => v.peer === peer && v.displays.includes(display.number))) continue;
        display.store.removeViewer(feed);
        display.viewers.delete(peer);
        display.peers.delete(feed);
        peer.held.delete(display.number);
      }
    for (const { peer, displays } of viewers)
      for (const number of displays) {
        const display = this.#display(number);
        if (!display.viewers.has(peer)) this.#welcome(display, peer);
      }
    for (const display of this.#displays.values()) {
      if (!display.viewers.size) this.#displays.delete(display.number);
      else if (isNewSource) this.#greet(display);
    }
  }

  /** The source is gone: what it showed is nobody's any longer, but who holds what stays true. */
  sourceLost(): void {
    this.#source = undefined;
  }

  takeFromSource(frame: Frame, bytes: Uint8Array): void {
    if (frame.receiverSeat !== EVERY_VIEWER) throw new AppError('MESSAGE_INVALID');
    const display = this.#displays.get(frame.display);
    // Nobody looks any longer; the source will hear of it.
    if (!display) return;
    display.store.noteEpoch(frame.epoch);
    if (frame.channel === 'cursor') {
      if (frame.kind === frameKinds.cursor.shape) display.cursorShape = bytes.slice();
      else display.cursorPosition = bytes.slice();
      for (const peer of display.viewers.keys()) peer.sendFrame(bytes);
      return;
    }
    if (frame.kind === frameKinds.screen.checkpoint) {
      for (const peer of display.viewers.keys()) peer.sendFrame(bytes);
      this.#askFor(display);
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
    display.store.put(unit, (feed) => {
      const peer = display.peers.get(feed);
      return peer !== undefined && peer.hasRoom && peer.sendFrame(bytes);
    });
    this.#askFor(display);
  }

  takeFromViewer(frame: Frame, peer: Peer): void {
    if (frame.channel !== 'screen' || frame.kind !== frameKinds.screen.holds) throw new AppError('MESSAGE_INVALID');
    const table = readTable(frame.payload);
    const display = this.#displays.get(frame.display);
    const feed = display?.viewers.get(peer);
    if (display && feed) display.store.holds(feed, table);
    else peer.held.set(frame.display, table);
  }

  /** This viewer's line can take more. */
  pump(peer: Peer): void {
    for (const display of this.#displays.values()) {
      const feed = display.viewers.get(peer);
      if (feed) this.#pumpOne(display, peer, feed);
    }
  }

  #display(number: number): DisplayRelay {
    const known = this.#displays.get(number);
    if (known) return known;
    const display: DisplayRelay = {
      number,
      store: new RelayStore(),
      viewers: new Map(),
      peers: new Map(),
      cursorShape: undefined,
      cursorPosition: undefined,
    };
    this.#displays.set(number, display);
    return display;
  }

  /** Everything is news to a newcomer, but for what they say they hold; what the store lacks the source sends whole. */
  #welcome(display: DisplayRelay, peer: Peer): void {
    const feed = display.store.addViewer();
    display.viewers.set(peer, feed);
    display.peers.set(feed, peer);
    const held = peer.held.get(display.number);
    if (held) display.store.holds(feed, held);
    peer.held.delete(display.number);
    if (display.cursorShape) peer.sendFrame(display.cursorShape);
    if (display.cursorPosition) peer.sendFrame(display.cursorPosition);
    this.#pumpOne(display, peer, feed);
    if (!display.store.table) this.#want(display.number, []);
  }

  /** A source that comes back hears what arrived before its line was lost. */
  #greet(display: DisplayRelay): void {
    const { table } = display.store;
    if (!table || !this.#source) this.#want(display.number, []);
    else
      this.#source.sendFrame(frameTo(this.#source, frameKinds.screen.holds, display.number, encodeVersionTable(table)));
  }

  #pumpOne(display: DisplayRelay, peer: Peer, feed: ViewerFeed): void {
    while (feed.missing.size) {
      if (!peer.hasRoom) return;
      const bytes = display.store.next(feed);
      if (!bytes) break;
      peer.sendFrame(bytes);
    }
    this.#askFor(display);
  }

  /** Asks the source for what somebody with room misses and the store has not. */
  #askFor(display: DisplayRelay): void {
    for (const [peer, feed] of display.viewers) {
      if (!feed.missing.size || !peer.hasRoom) continue;
      const tiles = display.store.ask(feed, this.#clock.nowMs());
      if (tiles.length) this.#want(display.number, tiles);
    }
  }

  #want(display: number, tiles: readonly number[]): void {
    this.#source?.sendFrame(frameTo(this.#source, frameKinds.screen.want, display, encodeWanted(tiles)));
  }
}

export const rowsOf = (viewers: readonly { peer: Peer; displays: readonly number[] }[]): ViewerRow[] =>
  viewers.map(({ peer, displays }) => ({ seat: peer.seat, displays: [...displays] })).sort((a, b) => a.seat - b.seat);

/** A message of the relay itself: seat 0 as its sender. */
function frameTo(peer: Peer, kind: number, display: number, payload: Uint8Array): Uint8Array {
  return encodeFrame({
    channel: 'screen',
    kind,
    display,
    senderSeat: 0,
    receiverSeat: peer.seat,
    epoch: 0,
    displayGeneration: 0,
    counter: 0n,
    payload,
  });
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
