import { x25519 } from '@noble/curves/ed25519.js';
import { hkdf } from '@noble/hashes/hkdf.js';
import { sha256 } from '@noble/hashes/sha2.js';
import { hexToBytes, utf8ToBytes } from '@noble/hashes/utils.js';
import type { SealedName } from '../abilities/index.ts';
import { AppError } from '../errors.ts';
import { decodeFrame, encodeFrameHeader, FRAME_HEADER_BYTES, SEALED_KIND, type Frame } from '../frame.ts';
import { plainCiphers, type Ciphers } from './ciphers.ts';
import type { ParticipantKeys } from './keys.ts';

/*
 * Sealed messages between two participants, which the relay passes on unread. For each direction and channel there is
 * a key of its own:
 *
 *   key = HKDF-SHA-256( X25519(mine, theirs), salt = session id, info = "porch pairwise 3|channel|from key|from start|to key|to start" )
 *
 * AES-256-GCM (NIST SP 800-38D) with the header's 64-bit counter as nonce, four zero bytes before it, and the whole
 * header as additional data. A start id is fresh with every start of a program, so a counter never meets a key twice.
 */
export interface PairwiseSetup {
  readonly sessionId: string;
  readonly mine: ParticipantKeys;
  readonly mySeat: number;
  readonly theirAgreeKey: string;
  readonly theirStartId: string;
  readonly theirSeat: number;
  readonly channel: SealedName;
  /** Plain code where nothing is said. */
  readonly ciphers?: Ciphers;
}

/** Counters never wrap: a sender that gets here has to start again with new keys. */
const LAST_COUNTER = 2n ** 63n;

export class PairwiseChannel {
  readonly #setup: PairwiseSetup;
  readonly #sendKey: Uint8Array;
  readonly #receiveKey: Uint8Array;
  readonly #ciphers: Ciphers;
  #sent = 0n;
  #received = 0n;

  constructor(setup: PairwiseSetup) {
    this.#setup = setup;
    this.#ciphers = setup.ciphers ?? plainCiphers;
    const { mine, theirAgreeKey, theirStartId, sessionId, channel } = setup;
    const shared = x25519.getSharedSecret(mine.agreeSecret, hexToBytes(theirAgreeKey));
    const keyFor = (from: string, to: string) =>
      hkdf(sha256, shared, utf8ToBytes(sessionId), utf8ToBytes(`porch pairwise 3|${channel}|${from}|${to}`), 32);
    const [me, them] = [`${mine.agreeKey}|${mine.startId}`, `${theirAgreeKey}|${theirStartId}`];
    this.#sendKey = keyFor(me, them);
    this.#receiveKey = keyFor(them, me);
  }

  /** A whole binary message, ready for the socket. */
  seal(plain: Uint8Array, display = 0, displayGeneration = 0): Uint8Array {
    if (this.#sent >= LAST_COUNTER) throw new Error('the counter of a pairwise key is used up');
    const { channel, mySeat, theirSeat } = this.#setup;
    const header = encodeFrameHeader({
      channel,
      kind: SEALED_KIND,
      display,
      senderSeat: mySeat,
      receiverSeat: theirSeat,
      epoch: 0,
      displayGeneration,
      counter: ++this.#sent,
    });
    return this.#ciphers.seal(this.#sendKey, nonceFor(this.#sent), header, plain);
  }

  /** The plain bytes. Throws MESSAGE_INVALID for a repeated counter, a changed header or another sender's message. */
  open(message: Uint8Array): { frame: Frame; plain: Uint8Array } {
    const frame = decodeFrame(message);
    const { channel, mySeat, theirSeat } = this.#setup;
    const isOurs = frame.channel === channel && frame.senderSeat === theirSeat && frame.receiverSeat === mySeat;
    if (!isOurs || frame.counter <= this.#received) throw new AppError('MESSAGE_INVALID');
    let plain: Uint8Array;
    try {
      const header = message.subarray(0, FRAME_HEADER_BYTES);
      plain = this.#ciphers.open(this.#receiveKey, nonceFor(frame.counter), header, frame.payload);
    } catch (cause) {
      throw new AppError('MESSAGE_INVALID', {}, { cause });
    }
    this.#received = frame.counter;
    return { frame, plain };
  }
}

export function nonceFor(counter: bigint): Uint8Array {
  const nonce = new Uint8Array(12);
  new DataView(nonce.buffer).setBigUint64(4, counter);
  return nonce;
}
