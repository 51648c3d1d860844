import { AppError } from '../errors.ts';
import { CHUNK_TAG } from './channel.ts';

/** A piece of something larger than a message. */
export interface Chunk {
  readonly id: string;
  readonly offset: number;
  readonly bytes: Uint8Array;
}

const HEAD_BYTES = 45;

/** Tag, 36 characters of the id, offset as a 64-bit number, then the bytes. */
export function encodeChunk({ id, offset, bytes }: Chunk): Uint8Array {
  const out = new Uint8Array(HEAD_BYTES + bytes.length);
  out[0] = CHUNK_TAG;
  out.set(new TextEncoder().encode(id), 1);
  new DataView(out.buffer).setBigUint64(37, BigInt(offset));
  out.set(bytes, HEAD_BYTES);
  return out;
}

/** The bytes are a view. Throws MESSAGE_INVALID for what is no chunk. */
export function decodeChunk(plain: Uint8Array): Chunk {
  if (plain[0] !== CHUNK_TAG || plain.length < HEAD_BYTES) throw new AppError('MESSAGE_INVALID');
  const view = new DataView(plain.buffer, plain.byteOffset, plain.byteLength);
  const id = new TextDecoder().decode(plain.subarray(1, 37));
  return { id, offset: Number(view.getBigUint64(37)), bytes: plain.subarray(HEAD_BYTES) };
}
