import type { RunningHash } from '@porch/wire';
import type { FileTransfer } from '@porch/core';
import type { FileSink } from './file-ends.ts';

/** Written before the sender is told, while more waits to be written: each word costs both ends a message. */
const TELL_BYTES = 256 * 1024;
/** Pieces that the disk has not taken yet; a sender that ignores what it is told is not waited for. */
const MOST_UNWRITTEN_BYTES = 2 * 1024 * 1024;
/** Whoever missed a piece asks again at once, but not for each that comes behind it. */
const GAP_MS = 250;

/** One file on its way here. */
export class Receiving {
  readonly file: FileTransfer;
  readonly sink: FileSink;
  readonly #hash: RunningHash;
  receivedBytes: number;
  heardAtMs: number;
  #writtenBytes: number;
  #toldBytes: number;
  #askedAtMs = -Infinity;
  /** What is being written, in order. */
  work: Promise<void> = Promise.resolve();

  constructor(file: FileTransfer, sink: FileSink, hash: RunningHash, receivedBytes: number, nowMs: number) {
    this.file = file;
    this.sink = sink;
    this.#hash = hash;
    this.receivedBytes = receivedBytes;
    this.#writtenBytes = receivedBytes;
    this.#toldBytes = receivedBytes;
    this.heardAtMs = nowMs;
  }

  get isWhole(): boolean {
    return this.#writtenBytes === this.file.sizeBytes;
  }
  get writtenBytes(): number {
    return this.#writtenBytes;
  }
  digest(): Uint8Array {
    return this.#hash.digest();
  }

  /** Whether this is the next piece; `missed` is said when one before it did not come. */
  take(offset: number, bytes: Uint8Array, nowMs: number): 'next' | 'missed' | 'known' {
    if (offset + bytes.length > this.file.sizeBytes || !bytes.length) return 'known';
    if (offset > this.receivedBytes) {
      if (nowMs - this.#askedAtMs < GAP_MS) return 'known';
      this.#askedAtMs = nowMs;
      return 'missed';
    }
    // After a lost line a chunk may come twice.
    if (offset < this.receivedBytes) return 'known';
    if (this.receivedBytes - this.#writtenBytes > MOST_UNWRITTEN_BYTES) return 'known';
    this.receivedBytes += bytes.length;
    this.heardAtMs = nowMs;
    return 'next';
  }

  /** Writes it behind the others. Resolves with whether the sender is to be told. */
  async write(bytes: Uint8Array): Promise<boolean> {
    this.#hash.update(bytes);
    await (this.work = this.work.then(() => this.sink.write(bytes)));
    this.#writtenBytes += bytes.length;
    const isDue = this.#writtenBytes - this.#toldBytes >= TELL_BYTES || this.#writtenBytes === this.receivedBytes;
    if (isDue) this.#toldBytes = this.#writtenBytes;
    return isDue;
  }
}
