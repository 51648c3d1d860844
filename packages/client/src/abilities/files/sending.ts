import type { FileToSend } from './file-ends.ts';

/** One chunk at most, on a way that carries 2.5 MB a second or more; larger ones cost the relay no less. */
const MOST_CHUNK_BYTES = 128 * 1024;
/** A chunk takes no longer than this on the slowest part of the way, which may not be ours. */
const CHUNK_MS = 50;
const LEAST_CHUNK_BYTES = 1024;
const FIRST_CHUNK_BYTES = 2048;
/**
 * On the way before the sender waits for the receiver's word, within these: what the way itself holds, there and back, and a
 * second of it that may wait at its slowest part. A way that is long holds more; without the first of the two a file would
 * never go faster over it than it began.
 */
const WAITING_MS = 1_000;
const LEAST_WINDOW_BYTES = 16 * 1024;
/** Less than what a line takes of bulk: more would be dropped there. */
const MOST_WINDOW_BYTES = 768 * 1024;
/** The way is measured over at least this long, and over once there and back. */
const MEASURE_MS = 50;
/** How much of a measurement counts: a way that carries more is believed sooner than one that carries less for a moment. */
const [RISING, FALLING] = [0.8, 0.4];
/** Read at once: a file gives much as fast as little. */
const READ_BYTES = 512 * 1024;
export const HASH_READ_BYTES = 1024 * 1024;

interface Block {
  readonly offset: number;
  readonly bytes: Uint8Array;
}

export interface SendingLine {
  nowMs(): number;
  /** Whether it is still to be sent. */
  isWanted(): boolean;
  /** False when the line takes no more. */
  send(offset: number, bytes: Uint8Array): boolean;
}

/** One file on its way to one receiver, as far ahead of what they said as the whole way carries. */
export class Sending {
  readonly source: FileToSend;
  readonly toSeat: number;
  readonly #line: SendingLine;
  #nextOffset = 0;
  #ackedOffset = 0;
  #isPumping = false;
  /** What was read last. */
  #block: Block = { offset: 0, bytes: new Uint8Array() };
  /** Of the whole way to the receiver; undefined until it was measured. */
  #bytesPerMs: number | undefined;
  #measuredFrom = { offset: 0, atMs: 0 };
  /** The shortest that a piece took there and its word back, since it was begun or begun anew. */
  #shortestMs = Infinity;
  /** The piece whose word is waited for to know that. */
  #timed: { readonly end: number; readonly atMs: number } | undefined;

  constructor(source: FileToSend, toSeat: number, line: SendingLine) {
    this.source = source;
    this.toSeat = toSeat;
    this.#line = line;
  }

  get ackedOffset(): number {
    return this.#ackedOffset;
  }

  /** The receiver is at `offset`, whatever was sent before. False for what is no place in this file. */
  from(offset: number): boolean {
    if (offset > this.source.sizeBytes) return false;
    this.#nextOffset = offset;
    this.#ackedOffset = offset;
    this.#measuredFrom = { offset, atMs: this.#line.nowMs() };
    // Another way, maybe.
    this.#shortestMs = Infinity;
    this.#timed = undefined;
    return true;
  }

  acknowledged(offset: number): void {
    // What was never sent cannot have come.
    if (offset > this.#nextOffset) return;
    this.#ackedOffset = Math.max(this.#ackedOffset, offset);
    if (this.#timed && offset >= this.#timed.end) {
      this.#shortestMs = Math.min(this.#shortestMs, this.#line.nowMs() - this.#timed.atMs);
      this.#timed = undefined;
    }
    this.#measure();
  }

  /** Sends as much as may be on the way. Throws when it cannot be read. */
  async pump(): Promise<void> {
    if (this.#isPumping) return;
    this.#isPumping = true;
    try {
      while (this.#line.isWanted() && this.#hasRoom()) {
        const offset = this.#nextOffset;
        const bytes = await this.#read(offset);
        // Stopped while reading, or asked to go on from somewhere else: what was read is not the next.
        if (!this.#line.isWanted() || this.#nextOffset !== offset) continue;
        if (!this.#line.send(offset, bytes)) return;
        this.#nextOffset = offset + bytes.length;
        this.#timed ??= { end: this.#nextOffset, atMs: this.#line.nowMs() };
      }
    } finally {
      this.#isPumping = false;
    }
  }

  #hasRoom(): boolean {
    const held = (this.#bytesPerMs ?? 0) * (this.#wayMs + WAITING_MS);
    const windowBytes = Math.min(MOST_WINDOW_BYTES, Math.max(LEAST_WINDOW_BYTES, held));
    return this.#nextOffset < this.source.sizeBytes && this.#nextOffset - this.#ackedOffset < windowBytes;
  }

  async #read(offset: number): Promise<Uint8Array> {
    const known = this.#block;
    const isKnown = offset >= known.offset && offset < known.offset + known.bytes.length;
    const length = Math.min(READ_BYTES, this.source.sizeBytes - offset);
    const block = isKnown ? known : { offset, bytes: await this.source.read(offset, length) };
    this.#block = block;
    const rate = this.#bytesPerMs;
    const most =
      rate === undefined
        ? FIRST_CHUNK_BYTES
        : Math.min(MOST_CHUNK_BYTES, Math.max(LEAST_CHUNK_BYTES, Math.round(rate * CHUNK_MS)));
    return block.bytes.subarray(offset - block.offset, offset - block.offset + most);
  }

  /** There and back; 0 while nothing is known of it. */
  get #wayMs(): number {
    return Number.isFinite(this.#shortestMs) ? this.#shortestMs : 0;
  }

  #measure(): void {
    const { offset, atMs } = this.#measuredFrom;
    const nowMs = this.#line.nowMs();
    if (nowMs - atMs < Math.max(MEASURE_MS, this.#wayMs)) return;
    const bytesPerMs = (this.#ackedOffset - offset) / (nowMs - atMs);
    const known = this.#bytesPerMs ?? 0;
    const share = bytesPerMs > known ? RISING : FALLING;
    this.#bytesPerMs = this.#bytesPerMs === undefined ? bytesPerMs : known * (1 - share) + bytesPerMs * share;
    this.#measuredFrom = { offset: this.#ackedOffset, atMs: nowMs };
  }
}
