import { participantAt, type Participant } from '@porch/core';
import {
  decodeWords,
  encodeWords,
  type Frame,
  type PairwiseChannel,
  type SealedChannel,
  type SealedName,
} from '@porch/wire';
import type { LiveConnection } from './live/live-connection.ts';
import { SealedChannels } from './sealed-channels.ts';
import { unlessUnreadable } from './unless-unreadable.ts';

/** What a sealed line needs of a live connection. */
export type LineConnection = Pick<
  LiveConnection,
  'state' | 'sessionId' | 'keys' | 'seat' | 'sendFrame' | 'sendFresh' | 'sendBulk' | 'on'
> &
  Partial<Pick<LiveConnection, 'ciphers' | 'messageBytes'>>;

export interface Heard<M> {
  readonly from: Participant;
  readonly message: M;
  readonly frame: Frame;
}

/** Of each connection: a line that is opened anew goes on with the counters of the one before, so no nonce is used twice. */
const ofConnection = new WeakMap<LineConnection, Map<string, SealedChannels>>();
function channelsOf(connection: LineConnection, name: SealedName): SealedChannels {
  const known = ofConnection.get(connection) ?? new Map<string, SealedChannels>();
  ofConnection.set(connection, known);
  const channels = known.get(name) ?? new SealedChannels(connection, name);
  known.set(name, channels);
  return channels;
}

/** One ability's messages to the others of a session: sealed for each of them, opened only from whom it may be. */
export class SealedLine<M> {
  readonly channel: SealedChannel<SealedName, M>;
  readonly #connection: LineConnection;
  readonly #channels: SealedChannels;

  constructor(connection: LineConnection, channel: SealedChannel<SealedName, M>) {
    this.channel = channel;
    this.#connection = connection;
    this.#channels = channelsOf(connection, channel.name);
  }

  /** How large a message may be for what comes behind it not to wait long on this hop; undefined while there is none. */
  get messageBytes(): number | undefined {
    return this.#connection.messageBytes;
  }

  /** False when the line is gone, or nobody ever had this seat. */
  send(seat: number, message: M, display = 0, generation = 0): boolean {
    return this.#send(seat, encodeWords(message), { display, generation });
  }

  /** What has to wait for its turn is sent only if `may` still says so then. */
  sendPlain(seat: number, plain: Uint8Array, may?: () => boolean): boolean {
    return this.#send(seat, plain, { may });
  }

  #send(
    seat: number,
    plain: Uint8Array,
    { display = 0, generation = 0, may }: { display?: number; generation?: number; may?: (() => boolean) | undefined },
  ): boolean {
    const pairwise = this.#channels.toSeat(seat);
    if (!pairwise) return false;
    const bytes = pairwise.seal(plain, display, generation);
    const { line } = this.channel;
    if (line === 'bulk') return this.#connection.sendBulk(bytes, may);
    return line === 'fresh' ? this.#connection.sendFresh(bytes) : this.#connection.sendFrame(bytes);
  }

  /**
   * Hears what others say, until the returned function is called. The key decides, not the name: of whom `mayBeHeard`
   * refuses nothing is even opened. What cannot be opened or read is dropped, and only it.
   */
  listen(hear: (heard: Heard<M>) => void, mayBeHeard: (from: Participant) => boolean = () => true): () => void {
    return this.listenPlain((from, plain, frame) => {
      const message = unlessUnreadable(() => decodeWords(this.channel, plain));
      if (message) hear({ from, message, frame });
    }, mayBeHeard);
  }

  listenPlain(
    hear: (from: Participant, plain: Uint8Array, frame: Frame) => void,
    mayBeHeard: (from: Participant) => boolean = () => true,
  ): () => void {
    return this.#connection.on('frame', ({ frame, bytes }) => {
      if (frame.channel !== this.channel.name) return;
      const from = participantAt(this.#connection.state, frame.senderSeat);
      if (!from || !mayBeHeard(from)) return;
      const opened = unlessUnreadable(() => this.#pairwise(from).open(bytes));
      if (opened) hear(from, opened.plain, opened.frame);
    });
  }

  #pairwise(other: Participant): PairwiseChannel {
    return this.#channels.to(other);
  }
}
