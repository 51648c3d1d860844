import { consentHolderOf, type Participant } from '@porch/core';
import { encodeRelayFrame, frameKinds, ownScreenChannel, pictureChannel, startOf } from '@porch/wire';
import type { DisplayRow, PictureBounds, PictureMessage } from '@porch/wire';
import { inBackground } from '../in-background.ts';
import { Listeners } from '../listeners.ts';
import type { LiveConnection } from '../live/live-connection.ts';
import { SealedLine } from '../sealed-line.ts';

/** How often a viewer asks the source to show that it is there. */
export const CHALLENGE_MS = 1_000;
/** Epochs of which a key is kept, for messages that are still on their way. */
const KEPT_KEYS = 3;

/** What a picture's worker, or a picture in this process, needs to be told and is asked. */
export interface PicturePort {
  readonly display: number;
  /** The seat of whose picture it is. Undefined: of whoever holds the consent, also when that changes. */
  readonly from?: number;
  setKey(key: { epoch: number; secret: string; sessionId: string; sourceStart: string; mySeat: number }): void;
  take(bytes: Uint8Array): void;
  challenge(): Promise<{ nonce: string; needsTable: boolean }>;
  holds(): Promise<Uint8Array>;
  /** Called when the relay has to hear what is held; set by whoever opens the port. */
  onResync: () => void;
  forget(): void;
}

interface PictureEvents {
  displays: readonly DisplayRow[];
  sourceNow: Extract<PictureMessage, { type: 'sourceNow' }>;
}

interface ContentKey {
  readonly epoch: number;
  readonly secret: string;
  readonly sourceStart: string;
}
/** What is known of one who shows something. */
interface Source {
  start: string;
  keys: ReadonlyMap<number, ContentKey>;
}

const nameOf = ({ from, display }: Pick<PicturePort, 'from' | 'display'>): string => `${from ?? ''}|${display}`;

/**
 * The viewer's side of pictures: hands their sources' keys to those that are open, asks for proofs of freshness, and tells
 * wishes. A picture is told from another by who sends it and which display it is.
 */
export class WatchedPictures {
  readonly listeners = new Listeners<PictureEvents>();
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<PictureMessage>;
  readonly #ports = new Map<string, PicturePort>();
  readonly #sources = new Map<number, Source>();
  readonly #offs: (() => void)[];
  #bounds: PictureBounds | undefined;
  displays: readonly DisplayRow[] = [];

  /** One at a time of a connection: pictures of all sources come through it. */
  constructor(connection: LiveConnection, channel: typeof pictureChannel | typeof ownScreenChannel = pictureChannel) {
    this.#connection = connection;
    this.#line = new SealedLine<PictureMessage>(connection, channel);
    this.#offs = [
      this.#line.listen(
        ({ from, message }) => this.#take(from, message),
        (from) => this.#isSource(from),
      ),
      connection.on('caughtUp', () => this.#resume()),
      connection.clock.every(CHALLENGE_MS, () => inBackground('asking how fresh the picture is', this.#challenge())),
    ];
    connection.setPictureTaker((bytes) => {
      const { seat, display } = streamOf(bytes);
      const isHolders = seat === this.#holder?.seat;
      const port =
        this.#ports.get(nameOf({ from: seat, display })) ??
        (isHolders ? this.#ports.get(nameOf({ display })) : undefined);
      if (port) port.take(bytes);
      else connection.handled(bytes.byteLength);
    });
  }

  /** Shows one display through this port until the returned function is called. */
  open(port: PicturePort): () => void {
    const earlier = this.#ports.get(nameOf(port));
    // Whoever was shown this goes first: what it holds is not held by the one that takes its place, and has to come again.
    if (earlier) this.#closePort(earlier);
    this.#ports.set(nameOf(port), port);
    port.onResync = () =>
      inBackground(
        'telling what is held',
        port.holds().then((table) => this.#sendHolds(port, table)),
      );
    this.#giveKeys(port);
    this.#connection.watch(port.display, true, port.from);
    inBackground('asking how fresh the picture is', this.#challenge());
    return () => this.#closePort(port);
  }

  #closePort(port: PicturePort): void {
    if (this.#ports.get(nameOf(port)) !== port) return;
    this.#ports.delete(nameOf(port));
    this.#connection.watch(port.display, false, port.from);
    port.forget();
  }

  setBounds(bounds: PictureBounds): void {
    this.#bounds = bounds;
    this.#tellHolder({ type: 'bounds', bounds });
  }

  /** A port could not read what came: the source tells its key again. */
  needKey({ from }: Pick<PicturePort, 'from'> = {}): void {
    if (from === undefined) this.#tellHolder({ type: 'needKey' });
    else this.#line.send(from, { type: 'needKey' });
  }

  /** The right to look has ended. */
  forget(): void {
    this.#sources.clear();
    for (const port of this.#ports.values()) port.forget();
  }

  close(): void {
    this.#offs.forEach((off) => off());
    this.#connection.setPictureTaker(undefined);
    for (const port of this.#ports.values()) port.forget();
    this.#ports.clear();
    this.listeners.clear();
  }

  get #holder() {
    return consentHolderOf(this.#connection.state);
  }

  #tellHolder(message: PictureMessage): void {
    const holder = this.#holder;
    if (holder) this.#line.send(holder.seat, message);
  }

  #giveKeys(port: PicturePort): void {
    const { sessionId, seat } = this.#connection;
    const from = port.from ?? this.#holder?.seat;
    const keys = from === undefined ? undefined : this.#sources.get(from)?.keys;
    for (const key of keys?.values() ?? []) port.setKey({ ...key, sessionId, mySeat: seat });
  }

  /** After a lost line the relay hears what is held, so that only the rest comes. */
  #resume(): void {
    if (this.#bounds) this.#tellHolder({ type: 'bounds', bounds: this.#bounds });
    for (const port of this.#ports.values()) {
      const told = port.holds().then((table) => {
        this.#sendHolds(port, table);
        if (this.#ports.get(nameOf(port)) === port) this.#connection.watch(port.display, true, port.from);
      });
      inBackground('telling what is held', told);
    }
  }

  #sendHolds({ display, from }: PicturePort, table: Uint8Array): void {
    this.#connection.sendFrame(
      encodeRelayFrame({
        channel: 'screen',
        kind: frameKinds.screen.holds,
        display,
        senderSeat: this.#connection.seat,
        // Whose picture it is; 0: the holder's.
        receiverSeat: from ?? 0,
        payload: table,
      }),
    );
  }

  async #challenge(): Promise<void> {
    for (const port of this.#ports.values()) {
      const { nonce, needsTable } = await port.challenge();
      const seat = port.from ?? this.#holder?.seat;
      if (seat !== undefined) this.#line.send(seat, { type: 'challenge', nonce, display: port.display, needsTable });
    }
  }

  /** Whoever holds the consent, and those of whom something is wanted by name. */
  #isSource({ seat, id }: Participant): boolean {
    return id === this.#connection.state.holderId || [...this.#ports.values()].some((port) => port.from === seat);
  }

  #take(from: Participant, message: PictureMessage): void {
    const start = startOf(from);
    let source = this.#sources.get(from.seat);
    if (source?.start !== start) this.#sources.set(from.seat, (source = { start, keys: new Map() }));
    if (message.type === 'epochKey') {
      const isFirst = source.keys.size === 0;
      const { epoch, secret } = message;
      const known = new Map(source.keys).set(epoch, { epoch, secret, sourceStart: start });
      source.keys = new Map([...known].slice(-KEPT_KEYS));
      for (const port of this.#ports.values()) this.#giveKeys(port);
      this.#line.send(from.seat, { type: 'epochTaken', epoch });
      // What was asked before we might look was heard by nobody.
      if (isFirst) inBackground('asking how fresh the picture is', this.#challenge());
    } else if (from.id !== this.#connection.state.holderId) return;
    else if (message.type === 'displays') {
      this.displays = message.displays;
      this.listeners.emit('displays', message.displays);
    } else if (message.type === 'sourceNow') this.listeners.emit('sourceNow', message);
  }
}

/** Who sent a message of a picture, and of which display: see the header in `wire`. */
const streamOf = (bytes: Uint8Array) => ({
  seat: ((bytes[4] ?? 0) << 8) | (bytes[5] ?? 0),
  display: bytes[3] ?? 0,
});
