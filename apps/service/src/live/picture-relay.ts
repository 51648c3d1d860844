import {
  decodeAck,
  decodeClearPart,
  encodeAck,
  encodeWanted,
  PictureError,
  RelayStore,
  type ViewerFeed,
} from '@porch/screen';
import { AppError, encodeFrame, EVERY_VIEWER, frameKinds, type Frame } from '@porch/wire';
import type { Peer } from './peer.ts';

/** A desktop has a handful of displays; more is not a desktop. */
const MAX_DISPLAYS = 16;
/** A socket with this much unsent gets no more picture until it drains. */
const MAX_UNSENT_PICTURE_BYTES = 256 * 1024;

/** What a viewer keeps of each display, beside the store: the marks, and the newest cursor. */
interface DisplayRelay {
  readonly store: RelayStore;
  readonly feeds: Map<Peer, ViewerFeed>;
  cursorShape: Uint8Array | undefined;
  cursorPosition: Uint8Array | undefined;
}

/** Passes one session's pictures on to those who may look. It reads headers and tile sets, and nothing else. */
export class PictureRelay {
  readonly #displays = new Map<number, DisplayRelay>();
  #viewers: readonly Peer[] = [];

  /** Who may look now. Whoever is not in the list any longer gets nothing more from this moment on. */
  setViewers(viewers: readonly Peer[], source: Peer | undefined): void {
    const newcomers = viewers.filter((v) => !this.#viewers.includes(v));
    this.#viewers = viewers;
    for (const [number, display] of this.#displays) {
      for (const peer of display.feeds.keys()) {
        if (viewers.includes(peer)) continue;
        const feed = display.feeds.get(peer);
        if (feed) display.store.removeViewer(feed);
        display.feeds.delete(peer);
      }
      if (!viewers.length) this.#forget(display);
      for (const peer of newcomers) this.#welcome(number, display, peer, source);
    }
    if (newcomers.length && !this.#displays.size && source) this.#want(0, [], source);
  }

  /** The source is gone: what it showed is nobody's any longer. */
  forgetAll(): void {
    for (const display of this.#displays.values()) this.#forget(display);
  }

  takeFromSource(frame: Frame, bytes: Uint8Array, source: Peer): void {
    if (frame.receiverSeat !== EVERY_VIEWER) throw new AppError('MESSAGE_INVALID');
    const display = this.#display(frame.display, source);
    if (frame.channel === 'cursor') {
      if (frame.kind === frameKinds.cursor.shape) display.cursorShape = bytes.slice();
      else display.cursorPosition = bytes.slice();
      for (const peer of display.feeds.keys()) peer.sendFrame(bytes);
      return;
    }
    if (frame.kind !== frameKinds.screen.update) throw new AppError('MESSAGE_INVALID');
    const clear = readClearPart(frame.payload);
    source.sendFrame(
      frameTo(source, 'screen', frameKinds.screen.paintedAck, frame.display, encodeAck(bytes.byteLength)),
    );
    if (!this.#viewers.length) return;
    // A copy: the socket's buffer is reused, and this may be kept for minutes.
    const wanted = display.store.put(bytes.slice(), clear, frame.displayGeneration);
    if (wanted.length) this.#want(frame.display, wanted, source);
    for (const [peer, feed] of display.feeds) this.#pump(display, peer, feed);
  }

  /** A viewer has painted, and so has room for more. */
  takeFromViewer(frame: Frame, peer: Peer): void {
    if (frame.channel !== 'screen' || frame.kind !== frameKinds.screen.paintedAck)
      throw new AppError('MESSAGE_INVALID');
    const display = this.#displays.get(frame.display);
    const feed = display?.feeds.get(peer);
    if (!display || !feed) return;
    feed.inFlightBytes = Math.max(0, feed.inFlightBytes - readAck(frame.payload));
    this.#pump(display, peer, feed);
  }

  #display(number: number, source: Peer): DisplayRelay {
    const known = this.#displays.get(number);
    if (known) return known;
    if (this.#displays.size >= MAX_DISPLAYS) throw new AppError('MESSAGE_INVALID');
    const display: DisplayRelay = {
      store: new RelayStore(),
      feeds: new Map(),
      cursorShape: undefined,
      cursorPosition: undefined,
    };
    this.#displays.set(number, display);
    for (const peer of this.#viewers) this.#welcome(number, display, peer, source);
    return display;
  }

  /** Everything is news to a newcomer; what the store lacks the source sends again. */
  #welcome(number: number, display: DisplayRelay, peer: Peer, source: Peer | undefined): void {
    const feed = display.store.addViewer();
    display.feeds.set(peer, feed);
    if (display.cursorShape) peer.sendFrame(display.cursorShape);
    if (display.cursorPosition) peer.sendFrame(display.cursorPosition);
    const { generation, missingTiles } = display.store;
    if (source && (generation < 0 || missingTiles.length))
      this.#want(number, generation < 0 ? [] : missingTiles, source);
    this.#pump(display, peer, feed);
  }

  #forget(display: DisplayRelay): void {
    display.store.clear();
    display.cursorShape = undefined;
    display.cursorPosition = undefined;
  }

  #want(display: number, tiles: readonly number[], source: Peer): void {
    source.sendFrame(frameTo(source, 'screen', frameKinds.screen.want, display, encodeWanted(tiles)));
  }

  #pump(display: DisplayRelay, peer: Peer, feed: ViewerFeed): void {
    while (peer.socket.bufferedAmount < MAX_UNSENT_PICTURE_BYTES) {
      const bytes = display.store.next(feed);
      if (!bytes) return;
      peer.sendFrame(bytes);
    }
  }
}

/** A message of the relay itself: seat 0 as its sender. */
function frameTo(peer: Peer, channel: 'screen', kind: number, display: number, payload: Uint8Array): Uint8Array {
  return encodeFrame({
    channel,
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

function readClearPart(payload: Uint8Array) {
  return asMessageInvalid(() => decodeClearPart(payload));
}
const readAck = (payload: Uint8Array) => asMessageInvalid(() => decodeAck(payload));

function asMessageInvalid<T>(read: () => T): T {
  try {
    return read();
  } catch (cause) {
    if (cause instanceof PictureError) throw new AppError('MESSAGE_INVALID', {}, { cause });
    throw cause;
  }
}
