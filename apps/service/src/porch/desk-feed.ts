import type { ServerResponse } from 'node:http';

/** Changes that come together are told together. */
const GATHER_MS = 80;
const BEAT_MS = 15_000;
const MAX_READERS = 500;
/** A reader with this much unread is cut; its page connects again and gets the whole porch. */
const MAX_UNREAD_BYTES = 1024 * 1024;

/** Server-sent events: after each change every reader gets the porch as it is for them. */
export class DeskFeed {
  readonly #readers = new Map<ServerResponse, () => Promise<unknown>>();
  readonly #onError: (error: unknown) => void;
  readonly #beat: ReturnType<typeof setInterval>;
  #gathering: ReturnType<typeof setTimeout> | undefined;

  constructor(onError: (error: unknown) => void) {
    this.#onError = onError;
    this.#beat = setInterval(() => {
      for (const reader of this.#readers.keys()) reader.write(': still here\n\n');
    }, BEAT_MS);
  }

  /** False when there are too many readers already. */
  add(reader: ServerResponse, read: () => Promise<unknown>): boolean {
    if (this.#readers.size >= MAX_READERS) return false;
    this.#readers.set(reader, read);
    reader.on('close', () => this.#readers.delete(reader));
    void this.#tell(reader, read);
    return true;
  }

  /** Grows with every change: what was worked out before is old. */
  version = 0;

  changed = (): void => {
    this.version++;
    this.#gathering ??= setTimeout(() => {
      this.#gathering = undefined;
      for (const [reader, read] of this.#readers) void this.#tell(reader, read);
    }, GATHER_MS);
  };

  close(): void {
    clearInterval(this.#beat);
    clearTimeout(this.#gathering);
    for (const reader of this.#readers.keys()) reader.end();
    this.#readers.clear();
  }

  async #tell(reader: ServerResponse, read: () => Promise<unknown>): Promise<void> {
    try {
      const value = await read();
      if (reader.writableLength > MAX_UNREAD_BYTES) reader.destroy();
      else if (!reader.writableEnded) reader.write(`event: porch\ndata: ${JSON.stringify(value)}\n\n`);
    } catch (error) {
      // Signed out meanwhile, or the records are away: the page connects again and learns which.
      this.#onError(error);
      reader.end();
    }
  }
}
