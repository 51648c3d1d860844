import type { Chunk, Clock } from '@porch/wire';

/** One piece; small enough that input and picture never wait long behind it. */
const PIECE_BYTES = 24 * 1024;
/** On the way before the receiver asks for more. */
const WINDOW_BYTES = 8 * PIECE_BYTES;
/** A receiver that hears nothing for this long asks again from where it is. */
const ASK_AGAIN_MS = 2_000;

/** Sends what a receiver asks for, a window at a time; `send` says false when the line takes no more just now. */
export function sendPieces(bytes: Uint8Array, id: string, offset: number, send: (chunk: Chunk) => boolean): void {
  const until = Math.min(bytes.length, offset + WINDOW_BYTES);
  for (let at = offset; at < until; at += PIECE_BYTES)
    if (!send({ id, offset: at, bytes: bytes.subarray(at, Math.min(at + PIECE_BYTES, until)) })) return;
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
