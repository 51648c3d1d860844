import { hkdf } from '@noble/hashes/hkdf.js';
import { sha256 } from '@noble/hashes/sha2.js';
import { hexToBytes, utf8ToBytes } from '@noble/hashes/utils.js';
import { AppError } from '../errors.ts';
import { decodeFrame, FRAME_HEADER_BYTES, type Channel, type Frame } from '../frame.ts';
import { nonceFor } from './pairwise.ts';

/*
 * What goes from the source to every viewer: screen and cursor. Each epoch has a secret of 32 bytes, told to those who
 * may look and to nobody else; each channel and display has a key of its own:
 *
 *   key = HKDF-SHA-256( secret, salt = session id, info = "porch content 3|source's signing key.start id|epoch|channel|display" )
 *
 * AES-256-GCM with the header's counter as nonce. The payload is | length of the clear part u16 | clear part | sealed |;
 * header and clear part are additional data, so nobody can change which tiles a message is about.
 */
export interface ContentScope {
  readonly sessionId: string;
  /** The source's signing key and start, as `startOf` joins them: one that starts again has other keys. */
  readonly sourceStart: string;
  readonly epoch: number;
  readonly channel: Extract<Channel, 'screen' | 'cursor'>;
  readonly display: number;
}

const TAG_BYTES = 16;

export function contentKey(secretHex: string, scope: ContentScope): Uint8Array {
  const info = `porch content 3|${scope.sourceStart}|${scope.epoch}|${scope.channel}|${scope.display}`;
  return hkdf(sha256, hexToBytes(secretHex), utf8ToBytes(scope.sessionId), utf8ToBytes(info), 32);
}

export const contentNonce = nonceFor;

/** Header and clear part: what is authenticated, and stands at the beginning of the message. */
export function contentHead(header: Uint8Array, clear: Uint8Array): Uint8Array {
  const additional = new Uint8Array(FRAME_HEADER_BYTES + 2 + clear.length);
  additional.set(header);
  new DataView(additional.buffer).setUint16(FRAME_HEADER_BYTES, clear.length);
  additional.set(clear, FRAME_HEADER_BYTES + 2);
  return additional;
}

/** A whole message: the sealed bytes, tag last, after the head. */
export function joinContent(head: Uint8Array, sealed: Uint8Array): Uint8Array {
  const message = new Uint8Array(head.length + sealed.length);
  message.set(head);
  message.set(sealed, head.length);
  return message;
}

/** One message of a picture before it is sealed. Sealed in the order in which they were sent. */
export interface OpenContent {
  /** 32 bytes, the same array as long as it is the same key. */
  readonly key: Uint8Array;
  readonly counter: bigint;
  readonly header: Uint8Array;
  readonly clear: Uint8Array;
  readonly plain: Uint8Array;
}

export interface ContentParts {
  readonly frame: Frame;
  readonly clear: Uint8Array;
  readonly additional: Uint8Array;
  readonly sealed: Uint8Array;
}

/** The clear part of a message: all that who cannot open it may read. A view. Throws MESSAGE_INVALID. */
export function clearOf({ payload }: Frame): Uint8Array {
  if (payload.length < 2) throw new AppError('MESSAGE_INVALID');
  const clearBytes = ((payload[0] ?? 0) << 8) | (payload[1] ?? 0);
  if (payload.length < 2 + clearBytes + TAG_BYTES) throw new AppError('MESSAGE_INVALID');
  return payload.subarray(2, 2 + clearBytes);
}

/** Views on `bytes`, nothing is opened. Throws MESSAGE_INVALID. */
export function splitContent(bytes: Uint8Array): ContentParts {
  const frame = decodeFrame(bytes);
  const clear = clearOf(frame);
  return {
    frame,
    clear,
    additional: bytes.subarray(0, FRAME_HEADER_BYTES + 2 + clear.length),
    sealed: frame.payload.subarray(2 + clear.length),
  };
}

/** Opens messages of one epoch with Web Crypto, in pages and in Node alike. */
export class ContentOpener {
  readonly #secretHex: string;
  readonly #scope: Pick<ContentScope, 'sessionId' | 'sourceStart' | 'epoch'>;
  readonly #keys = new Map<string, Promise<CryptoKey>>();

  constructor(secretHex: string, scope: Pick<ContentScope, 'sessionId' | 'sourceStart' | 'epoch'>) {
    this.#secretHex = secretHex;
    this.#scope = scope;
  }

  /** The plain bytes. Throws MESSAGE_INVALID when the message was not sealed with this epoch's key, or was changed. */
  async open({ frame, additional, sealed }: ContentParts): Promise<Uint8Array> {
    const { channel, display } = frame;
    if (frame.epoch !== this.#scope.epoch || (channel !== 'screen' && channel !== 'cursor'))
      throw new AppError('MESSAGE_INVALID');
    try {
      const key = await this.#key(channel, display);
      const algorithm = {
        name: 'AES-GCM',
        iv: nonceFor(frame.counter) as BufferSource,
        additionalData: additional as BufferSource,
      };
      return new Uint8Array(await crypto.subtle.decrypt(algorithm, key, sealed as BufferSource));
    } catch (cause) {
      throw new AppError('MESSAGE_INVALID', {}, { cause });
    }
  }

  #key(channel: ContentScope['channel'], display: number): Promise<CryptoKey> {
    const name = `${channel}|${display}`;
    const known = this.#keys.get(name);
    if (known) return known;
    const bytes = contentKey(this.#secretHex, { ...this.#scope, channel, display });
    const key = crypto.subtle.importKey('raw', bytes as BufferSource, 'AES-GCM', false, ['decrypt']);
    this.#keys.set(name, key);
    return key;
  }
}
