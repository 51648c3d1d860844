import { PictureError } from './picture-error.ts';

/** Raw deflate and its inverse (RFC 1951), handed in: Node and browsers have different ones. */
export type Deflate = (bytes: Uint8Array) => Uint8Array;
export type Inflate = (bytes: Uint8Array, sizeBytes: number) => Uint8Array;

/** What a message may hold once it is unpacked; more is refused before any memory is taken. */
export const MAX_BODY_BYTES = 512 * 1024;
/** Less than this does not get smaller. */
const LEAST_PACKED_BYTES = 48;
const PLAIN = 0;
const PACKED = 1;

/** | 0 | bytes |   or   | 1 | unpacked size u32 | raw deflate | */
export function packBody(raw: Uint8Array, deflate: Deflate): Uint8Array {
  const packed = raw.length < LEAST_PACKED_BYTES ? undefined : deflate(raw);
  if (!packed || packed.length + 4 >= raw.length) {
    const out = new Uint8Array(1 + raw.length);
    out[0] = PLAIN;
    out.set(raw, 1);
    return out;
  }
  const out = new Uint8Array(5 + packed.length);
  out[0] = PACKED;
  new DataView(out.buffer).setUint32(1, raw.length);
  out.set(packed, 5);
  return out;
}

export function unpackBody(body: Uint8Array, inflate: Inflate): Uint8Array {
  if (body[0] === PLAIN) {
    if (body.length - 1 > MAX_BODY_BYTES) throw new PictureError('a picture message is too large');
    return body.subarray(1);
  }
  if (body[0] !== PACKED || body.length < 5) throw new PictureError('a picture message is packed in an unknown way');
  const size = new DataView(body.buffer, body.byteOffset).getUint32(1);
  if (size > MAX_BODY_BYTES) throw new PictureError('a picture message is too large');
  let raw: Uint8Array;
  try {
    raw = inflate(body.subarray(5), size);
  } catch (cause) {
    throw new PictureError('a picture message is damaged', { cause });
  }
  if (raw.length !== size) throw new PictureError('a picture message has the wrong length');
  return raw;
}
