import type { Chunk, Clock } from '@porch/wire';

/** One piece at most: on a way that carries half a megabyte a second. */
const MOST_PIECE_BYTES = 24 * 1024;
const LEAST_PIECE_BYTES = 1024;
/** While nothing is known of the way. */
const FIRST_PIECE_BYTES = 2048;
/** A piece takes no longer than this on the slowest part of the way, and so does whatever comes behind it: a key, a word. */
const PIECE_MS = 50;
/** On the way before the receiver asks for more. */
const WINDOW_BYTES = 8 * MOST_PIECE_BYTES;
/** A receiver that hears nothing for this long asks again from where it is. */
const ASK_AGAIN_MS = 2_000;

/** Sends one thing as its receiver asks for it, a window at a time, in pieces that the whole way carries in a moment. */
export class PieceSender {
  readonly bytes: Uint8Array;
  readonly #id: string;
  readonly #clock: Clock;
  #asked: { readonly offset: number; readonly atMs: number } | undefined;
  #pieceBytes = FIRST_PIECE_BYTES;

  constructor(bytes: Uint8Array, id: string, clock: Clock) {
    this.bytes = bytes;
    this.#id = id;
    this.#clock = clock;
  }

  /** `send` says false when the line takes no more just now. */
  sendFrom(offset: number, send: (chunk: Chunk) => boolean): void {
    this.#measure(offset);
    const { bytes } = this;
    const until = Math.min(bytes.length, offset + WINDOW_BYTES);
    for (let at = offset; at < until; at += this.#pieceBytes) {
      const piece = bytes.subarray(at, Math.min(at + this.#pieceBytes, until));
      if (!send({ id: this.#id, offset: at, bytes: piece })) return;
    }
  }

  /** From one question to the next, what lay between them came: over the whole way and not only this end of it. */
  #measure(offset: number): void {
    const atMs = this.#clock.nowMs();
    const before = this.#asked;
    this.#asked = { offset, atMs };
    if (!before || offset <= before.offset) return;
    const bytesPerMs = (offset - before.offset) / Math.max(1, atMs - before.atMs);
    this.#pieceBytes = Math.round(Math.min(MOST_PIECE_BYTES, Math.max(LEAST_PIECE_BYTES, bytesPerMs * PIECE_MS)));
  }
}

/** Gathers pieces in order until they are whole, asking for the next whenever a window has come, or nothing comes. */
export class PieceReceiver {
  readonly #bytes: Uint8Array;
  readonly #want: (offset: number) => void;
  readonly #onWhole: (bytes: Uint8Array) => void;
  readonly #clock: Clock;
  readonly #endAsking: () => void;
  #received = 0;
  #wantedTo = 0;
  #heardAtMs = 0;

  constructor(sizeBytes: number, want: (offset: number) => void, onWhole: (bytes: Uint8Array) => void, clock: Clock) {
    this.#bytes = new Uint8Array(sizeBytes);
    this.#want = want;
    this.#onWhole = onWhole;
    this.#clock = clock;
    this.#endAsking = clock.every(ASK_AGAIN_MS / 2, () => {
      if (clock.nowMs() - this.#heardAtMs > ASK_AGAIN_MS) this.#ask();
    });
    this.#ask();
  }

  /** Of it that is here, 0 to 1. */
  get share(): number {
    return this.#received / this.#bytes.length;
  }

  /** Only the next piece counts: one may come twice, or too early after a lost line. */
  take({ offset, bytes }: Chunk): void {
    if (offset !== this.#received || offset + bytes.length > this.#bytes.length || !bytes.length) return;
    this.#bytes.set(bytes, offset);
    this.#received += bytes.length;
    this.#heardAtMs = this.#clock.nowMs();
    if (this.#received === this.#bytes.length) {
      this.close();
      this.#onWhole(this.#bytes);
    } else if (this.#received >= this.#wantedTo) this.#ask();
  }

  close(): void {
    this.#endAsking();
  }

  #ask(): void {
    this.#heardAtMs = this.#clock.nowMs();
    this.#wantedTo = Math.min(this.#bytes.length, this.#received + WINDOW_BYTES);
    this.#want(this.#received);
  }
}
