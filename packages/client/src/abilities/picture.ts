import { encodeFrame, frameKinds, pictureChannel, startOf } from '@porch/wire';
import type { DisplayRow, PictureBounds, PictureMessage } from '@porch/wire';
import { consentHolderOf } from '../consent-holder-of.ts';
import { inBackground } from '../in-background.ts';
import { Listeners } from '../listeners.ts';
import type { LiveConnection } from '../live-connection.ts';
import { SealedLine } from '../sealed-line.ts';

/** How often a viewer asks the source to show that it is there. */
export const CHALLENGE_MS = 1_000;

/** What a picture's worker, or a picture in this process, needs to be told and is asked. */
export interface PicturePort {
  readonly display: number;
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

/**
 * The technician's side of the picture: hands the source's keys to the pictures that are open, asks for proofs of
 * freshness, and tells wishes.
 */
export class TechnicianPicture {
  readonly listeners = new Listeners<PictureEvents>();
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<PictureMessage>;
  readonly #ports = new Map<number, PicturePort>();
  readonly #offs: (() => void)[];
  readonly #timer: ReturnType<typeof setInterval>;
  #keys = new Map<number, { epoch: number; secret: string; sourceStart: string }>();
  #holderStart = '';
  #bounds: PictureBounds | undefined;
  displays: readonly DisplayRow[] = [];

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#line = new SealedLine(connection, pictureChannel);
    this.#offs = [
      this.#line.listen(
        ({ message }) => this.#take(message),
        (from) => from.id === connection.state.holderId,
      ),
      connection.on('caughtUp', () => this.#resume()),
    ];
    connection.setPictureTaker((bytes) => {
      const port = this.#ports.get(bytes[3] ?? 0);
      if (port) port.take(bytes);
      else connection.handled(bytes.byteLength);
    });
    this.#timer = setInterval(() => inBackground('asking how fresh the picture is', this.#challenge()), CHALLENGE_MS);
  }

  /** Shows one display through this port until the returned function is called. */
  open(port: PicturePort): () => void {
    this.#ports.set(port.display, port);
    port.onResync = () =>
      inBackground(
        'telling what is held',
        port.holds().then((table) => this.#sendHolds(port.display, table)),
      );
    this.#giveKeys(port);
    this.#connection.watch(port.display, true);
    inBackground('asking how fresh the picture is', this.#challenge());
    return () => {
      if (this.#ports.get(port.display) !== port) return;
      this.#ports.delete(port.display);
      this.#connection.watch(port.display, false);
      port.forget();
    };
  }

  setBounds(bounds: PictureBounds): void {
    this.#bounds = bounds;
    this.#tellHolder({ type: 'bounds', bounds });
  }

  /** A port could not read what came: the source tells its key again. */
  needKey(): void {
    this.#tellHolder({ type: 'needKey' });
  }

  /** The right to look has ended. */
  forget(): void {
    this.#keys.clear();
    for (const port of this.#ports.values()) port.forget();
  }

  close(): void {
    clearInterval(this.#timer);
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
    for (const key of this.#keys.values()) port.setKey({ ...key, sessionId, mySeat: seat });
  }

  /** After a lost line the relay hears what is held, so that only the rest comes. */
  #resume(): void {
    if (this.#bounds) this.#tellHolder({ type: 'bounds', bounds: this.#bounds });
    for (const port of this.#ports.values()) {
      const told = port.holds().then((table) => {
        this.#sendHolds(port.display, table);
        if (this.#ports.get(port.display) === port) this.#connection.watch(port.display, true);
      });
      inBackground('telling what is held', told);
    }
  }

  #sendHolds(display: number, table: Uint8Array): void {
    this.#connection.sendFrame(
      encodeFrame({
        channel: 'screen',
        kind: frameKinds.screen.holds,
        display,
        senderSeat: this.#connection.seat,
        receiverSeat: 0,
        epoch: 0,
        displayGeneration: 0,
        counter: 0n,
        payload: table,
      }),
    );
  }

  async #challenge(): Promise<void> {
    for (const port of this.#ports.values()) {
      const { nonce, needsTable } = await port.challenge();
      this.#tellHolder({ type: 'challenge', nonce, display: port.display, needsTable });
    }
  }

  #take(message: PictureMessage): void {
    const holder = this.#holder;
    if (!holder) return;
    if (startOf(holder) !== this.#holderStart) {
      this.#holderStart = startOf(holder);
      this.#keys.clear();
    }
    if (message.type === 'epochKey') {
      const isFirst = this.#keys.size === 0;
      this.#keys.set(message.epoch, { epoch: message.epoch, secret: message.secret, sourceStart: startOf(holder) });
      this.#keys = new Map([...this.#keys].slice(-3));
      for (const port of this.#ports.values()) this.#giveKeys(port);
      this.#tellHolder({ type: 'epochTaken', epoch: message.epoch });
      // What was asked before we might look was heard by nobody.
      if (isFirst) inBackground('asking how fresh the picture is', this.#challenge());
    } else if (message.type === 'displays') {
      this.displays = message.displays;
      this.listeners.emit('displays', message.displays);
    } else if (message.type === 'sourceNow') this.listeners.emit('sourceNow', message);
  }
}
