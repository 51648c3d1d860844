import type { SealedLine } from '@porch/client';
import { encodeChunk, MAX_UNTAKEN_BYTES, type Clock, type PrintedMessage } from '@porch/wire';

/** A message is no larger: what comes behind it must not wait long. */
const MOST_PIECE_BYTES = 24 * 1024;
const LEAST_PIECE_BYTES = 1_024;
/** What is printed within it after something was sent goes together. */
const GATHER_MS = 4;
/** The line takes nothing more just now. */
const AGAIN_MS = 20;
/** More waits for its turn: the program is not read meanwhile. */
const MOST_HELD_BYTES = 128 * 1024;

export interface StreamParts {
  readonly line: Pick<SealedLine<PrintedMessage>, 'sendPlain' | 'messageBytes'>;
  readonly seat: number;
  readonly time: Clock;
  readonly newId: () => string;
  /** Asked in the very tick that sends. */
  readonly may: () => boolean;
  /** More may be read of the program, or nothing for now. */
  readonly setReading: (isOn: boolean) => void;
  /** Nothing waits any longer. */
  readonly emptied: () => void;
}

/** What a command line prints, on its way to one technician: in order, and never more than their terminal can take soon. */
export class OutputStream {
  readonly #parts: StreamParts;
  #id = '';
  #held: Uint8Array[] = [];
  #heldBytes = 0;
  #sentBytes = 0;
  #takenBytes = 0;
  #sentAtMs = -Infinity;
  #endWaiting: (() => void) | undefined;
  #isResting = false;
  #isClosed = false;

  constructor(parts: StreamParts) {
    this.#parts = parts;
  }

  /** Begins anew, with this before all that waits and comes. Answers what its chunks are called. */
  begin(first: readonly Uint8Array[] = []): string {
    this.#id = this.#parts.newId();
    this.#held = [...first, ...this.#held];
    this.#heldBytes += first.reduce((sum, { length }) => sum + length, 0);
    this.#sentBytes = this.#takenBytes = 0;
    return this.#id;
  }
  /** What was not sent yet is void. */
  drop(): void {
    this.#held = [];
    this.#heldBytes = 0;
  }

  get isEmpty(): boolean {
    return this.#heldBytes === 0;
  }

  push(bytes: Uint8Array): void {
    this.#held.push(bytes);
    this.#heldBytes += bytes.length;
    const waitMs = this.#sentAtMs + GATHER_MS - this.#parts.time.nowMs();
    if (waitMs <= 0 || this.#heldBytes >= MOST_PIECE_BYTES) this.flush();
    else this.#later(waitMs);
    this.#follow();
  }

  /** Their terminal took so much of this stream. */
  taken(id: string, bytes: number): void {
    if (id !== this.#id || bytes <= this.#takenBytes || bytes > this.#sentBytes) return;
    this.#takenBytes = bytes;
    this.flush();
    this.#follow();
  }

  /** Nothing is sent and nothing is read until it goes on. */
  rest(isResting: boolean): void {
    this.#isResting = isResting;
    this.#follow();
  }

  /** What waits, as far as it may go. */
  flush(): void {
    const { line, seat, may, time } = this.#parts;
    while (this.#heldBytes && this.#sentBytes - this.#takenBytes < MAX_UNTAKEN_BYTES) {
      if (this.#isClosed || this.#isResting || !may()) return;
      const piece = this.#front(Math.min(MOST_PIECE_BYTES, Math.max(LEAST_PIECE_BYTES, line.messageBytes ?? 0)));
      const chunk = encodeChunk({ id: this.#id, offset: this.#sentBytes, bytes: piece });
      if (!line.sendPlain(seat, chunk, may)) return this.#later(AGAIN_MS);
      this.#shift(piece.length);
      this.#sentBytes += piece.length;
      this.#sentAtMs = time.nowMs();
      if (!this.#heldBytes) this.#parts.emptied();
    }
  }

  close(): void {
    this.#isClosed = true;
    this.#endWaiting?.();
    this.drop();
  }

  #later(waitMs: number): void {
    this.#endWaiting ??= this.#parts.time.after(waitMs, () => {
      this.#endWaiting = undefined;
      this.flush();
      this.#follow();
    });
  }
  #follow(): void {
    if (!this.#isClosed) this.#parts.setReading(!this.#isResting && this.#heldBytes < MOST_HELD_BYTES);
  }

  /** The first bytes that wait, as one piece. */
  #front(most: number): Uint8Array {
    const [first] = this.#held;
    if (first && (first.length >= most || this.#held.length === 1)) return first.subarray(0, most);
    const piece = new Uint8Array(Math.min(most, this.#heldBytes));
    let filled = 0;
    for (const bytes of this.#held) {
      const part = bytes.subarray(0, piece.length - filled);
      piece.set(part, filled);
      filled += part.length;
      if (filled === piece.length) break;
    }
    return piece;
  }
  #shift(count: number): void {
    this.#heldBytes -= count;
    let left = count;
    while (left > 0) {
      const first = this.#held[0] as Uint8Array;
      if (first.length <= left) this.#held.shift();
      else this.#held[0] = first.subarray(left);
      left -= Math.min(left, first.length);
    }
  }
}
