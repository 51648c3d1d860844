import { PictureError } from './picture-error.ts';

/** Writes numbers into a buffer that grows. */
export class ByteWriter {
  #bytes = new Uint8Array(256);
  #length = 0;

  get length(): number {
    return this.#length;
  }
  get bytes(): Uint8Array {
    return this.#bytes.subarray(0, this.#length);
  }

  byte(value: number): void {
    this.#room(1);
    this.#bytes[this.#length++] = value;
  }
  u16(value: number): void {
    this.byte(value >> 8);
    this.byte(value & 255);
  }
  u32(value: number): void {
    this.u16(value >>> 16);
    this.u16(value & 0xffff);
  }
  /** LEB128, at most 32 bits. */
  varint(value: number): void {
    let rest = value;
    for (; rest > 127; rest = Math.floor(rest / 128)) this.byte((rest % 128) | 128);
    this.byte(rest);
  }
  /** A signed number: even for those from nought on, odd for those below. */
  signed(value: number): void {
    this.varint(value < 0 ? -2 * value - 1 : 2 * value);
  }
  put(bytes: Uint8Array): void {
    this.#room(bytes.length);
    this.#bytes.set(bytes, this.#length);
    this.#length += bytes.length;
  }

  #room(count: number): void {
    if (this.#length + count <= this.#bytes.length) return;
    const larger = new Uint8Array(Math.max(this.#bytes.length * 2, this.#length + count));
    larger.set(this.#bytes);
    this.#bytes = larger;
  }
}

/** Reads numbers; past the end there is a PictureError and nothing else. */
export class ByteReader {
  readonly #bytes: Uint8Array;
  at: number;

  constructor(bytes: Uint8Array, at = 0) {
    this.#bytes = bytes;
    this.at = at;
  }

  get left(): number {
    return this.#bytes.length - this.at;
  }

  byte(): number {
    const value = this.#bytes[this.at++];
    if (value === undefined) throw new PictureError('a picture message is cut short');
    return value;
  }
  u16(): number {
    return (this.byte() << 8) | this.byte();
  }
  u32(): number {
    return this.u16() * 65_536 + this.u16();
  }
  varint(): number {
    let value = 0;
    for (let factor = 1; ; factor *= 128) {
      const byte = this.byte();
      value += (byte & 127) * factor;
      if (value > 0xffffffff) throw new PictureError('a picture message holds an impossible number');
      if (byte < 128) return value;
    }
  }
  signed(): number {
    const value = this.varint();
    return value % 2 ? -(value + 1) / 2 : value / 2;
  }
  take(count: number): Uint8Array {
    if (count > this.left) throw new PictureError('a picture message is cut short');
    this.at += count;
    return this.#bytes.subarray(this.at - count, this.at);
  }
}

/** Numbers as runs of the same: count, value, count, value … */
export function writeRuns(out: ByteWriter, values: ArrayLike<number>): void {
  for (let i = 0; i < values.length;) {
    let end = i + 1;
    while (end < values.length && values[end] === values[i]) end++;
    out.varint(end - i);
    out.varint(values[i] ?? 0);
    i = end;
  }
}

export function readRuns(reader: ByteReader, count: number): Float64Array {
  const values = new Float64Array(count);
  for (let i = 0; i < count;) {
    const length = reader.varint();
    if (length < 1 || i + length > count) throw new PictureError('a run has an impossible length');
    values.fill(reader.varint(), i, i + length);
    i += length;
  }
  return values;
}
