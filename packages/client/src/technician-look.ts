import {
  commitmentOf,
  encodeFrame,
  frameKinds,
  MAX_WORD_TRIES,
  startOf,
  verificationWords,
  type WordExchange,
} from '@porch/wire';
import type { DisplayRow, LookMessage, Mark, PictureBounds } from '@porch/wire';
import { bytesToHex } from '@noble/hashes/utils.js';
import { inBackground } from './in-background.ts';
import { Listeners } from './listeners.ts';
import type { LiveConnection } from './live-connection.ts';
import { SecondSecretProver, type SecretState } from './second-secret-prover.ts';
import { LookChannel } from './look-channel.ts';

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

interface LookEvents {
  displays: readonly DisplayRow[];
  sourceNow: Extract<LookMessage, { type: 'sourceNow' }>;
  words: readonly string[];
  secret: SecretState;
}

/**
 * The technician's side of looking: hands the source's keys to the pictures that are open, asks for proofs of freshness,
 * tells wishes, and makes the verification words with the holder.
 */
export class TechnicianLook {
  readonly listeners = new Listeners<LookEvents>();
  readonly #connection: LiveConnection;
  readonly #channel: LookChannel;
  readonly #ports = new Map<number, PicturePort>();
  readonly #offs: (() => void)[];
  readonly #timer: ReturnType<typeof setInterval>;
  #keys = new Map<number, { epoch: number; secret: string; sourceStart: string }>();
  #holderStart = '';
  /** The one exchange with the holder that is there: its commitment, and our nonce, made for it alone. */
  #exchange: { readonly commitment: string; readonly nonce: string } | undefined;
  #revealed: WordExchange | undefined;
  #bounds: PictureBounds | undefined;
  displays: readonly DisplayRow[] = [];
  /** For visits to devices: the second secret. */
  readonly secret: SecondSecretProver;
  /** How many holders words were made with. More than one: a program at the customer's side began anew, or was changed. */
  wordTries = 0;

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#channel = new LookChannel(connection);
    this.secret = new SecondSecretProver(
      connection,
      (message) => this.#tellHolder(message),
      (state) => this.listeners.emit('secret', state),
    );
    this.#offs = [
      connection.on('frame', ({ frame, bytes }) => {
        if (frame.channel === 'look') this.#take(frame.senderSeat, bytes);
      }),
      connection.on('caughtUp', () => this.#resume()),
      connection.on('entry', ({ event }) => {
        if (event.type === 'participantJoined' && event.role === 'doorstep') this.secret.knock();
        // They may say another language than we thought.
        if (event.type === 'customerIntroduced' || event.type === 'customerAccepted')
          this.listeners.emit('words', this.words);
      }),
    ];
    connection.setPictureTaker((bytes) => {
      const port = this.#ports.get(bytes[3] ?? 0);
      if (port) port.take(bytes);
      else connection.handled(bytes.byteLength);
    });
    this.#timer = setInterval(() => {
      inBackground('asking how fresh the picture is', this.#challenge());
      // A device that was still opening its door heard no knock.
      if (this.secret.state.name === 'unknown') this.secret.knock();
    }, CHALLENGE_MS);
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

  /** Those to compare, in the customer's language, since it is they who hear them; none before the exchange. */
  get words(): readonly string[] {
    return this.#revealed ? verificationWords(this.#revealed, this.#connection.state.language) : [];
  }

  setBounds(bounds: PictureBounds): void {
    this.#bounds = bounds;
    this.#tellHolder({ type: 'bounds', bounds });
  }

  /** A port could not read what came: the source tells its key again. */
  needKey(): void {
    this.#tellHolder({ type: 'needKey' });
  }

  /** Asks the customer, at their own computer, whether they hear the same words. */
  askCompare(): void {
    this.#tellHolder({ type: 'askCompare' });
  }

  /** Points at the picture, or draws on it. */
  mark(mark: Mark): void {
    this.#tellHolder({ type: 'mark', mark });
  }
  unmark(which: 'last' | 'all'): void {
    this.#tellHolder({ type: 'unmark', which });
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
    const { state } = this.#connection;
    return state.holderId ? state.participants[state.holderId] : undefined;
  }

  #tellHolder(message: LookMessage): void {
    const holder = this.#holder;
    if (holder) this.#channel.send(holder.seat, message);
  }

  #giveKeys(port: PicturePort): void {
    const { sessionId, seat } = this.#connection;
    for (const key of this.#keys.values()) port.setKey({ ...key, sessionId, mySeat: seat });
  }

  /** After a lost line the relay hears what is held, so that only the rest comes. */
  #resume(): void {
    if (this.#holder && this.secret.state.name !== 'right') this.secret.knock();
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

  #take(seat: number, bytes: Uint8Array): void {
    const holder = this.#holder;
    if (holder?.seat !== seat) return;
    const message = this.#channel.open(seat, bytes);
    if (!message) return;
    if (startOf(holder) !== this.#holderStart) {
      this.#holderStart = startOf(holder);
      this.#keys.clear();
      this.#exchange = undefined;
      this.#revealed = undefined;
      this.listeners.emit('words', this.words);
    }
    switch (message.type) {
      case 'epochKey': {
        const isFirst = this.#keys.size === 0;
        this.#keys.set(message.epoch, { epoch: message.epoch, secret: message.secret, sourceStart: startOf(holder) });
        this.#keys = new Map([...this.#keys].slice(-3));
        for (const port of this.#ports.values()) this.#giveKeys(port);
        this.#tellHolder({ type: 'epochTaken', epoch: message.epoch });
        // What was asked before we might look was heard by nobody.
        if (isFirst) inBackground('asking how fresh the picture is', this.#challenge());
        break;
      }
      case 'displays':
        this.displays = message.displays;
        this.listeners.emit('displays', message.displays);
        break;
      case 'sourceNow':
        this.listeners.emit('sourceNow', message);
        break;
      case 'commit':
        this.#answerCommitment(message.commitment);
        break;
      case 'reveal':
        this.#reveal(holder, message.nonce);
        break;
      case 'secretWanted':
      case 'secretShare':
      case 'secretResult':
        this.secret.take(message, holder);
        break;
      default:
        break;
    }
  }

  /**
   * The first commitment of a holder counts: one that could change its mind could search for words that fit. Our nonce is
   * fresh for each, so that what one holder learned of us helps no other.
   */
  #answerCommitment(commitment: string): void {
    if (!this.#exchange) {
      if (this.wordTries >= MAX_WORD_TRIES) return;
      this.wordTries++;
      this.#exchange = { commitment, nonce: bytesToHex(crypto.getRandomValues(new Uint8Array(32))) };
    }
    if (this.#exchange.commitment === commitment) this.#tellHolder({ type: 'nonce', nonce: this.#exchange.nonce });
  }

  #reveal(holder: { id: string; signKey: string; agreeKey: string }, nonce: string): void {
    const exchange = this.#exchange;
    if (!exchange || commitmentOf(holder, nonce) !== exchange.commitment) return;
    const { keys, participantId, sessionId } = this.#connection;
    this.#revealed = {
      sessionId,
      holder: { id: holder.id, signKey: holder.signKey, agreeKey: holder.agreeKey },
      technician: { id: participantId, signKey: keys.signKey, agreeKey: keys.agreeKey },
      holderNonce: nonce,
      technicianNonce: exchange.nonce,
    };
    this.listeners.emit('words', this.words);
  }
}
