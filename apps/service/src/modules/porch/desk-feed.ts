import type { ServerResponse } from 'node:http';
import type { Background } from '../../module/background.ts';
import { refusalOf } from '../../refusal-of.ts';

/** Changes that come together are told together. */
const GATHER_MS = 80;
const BEAT_MS = 15_000;
const MAX_READERS = 500;
/** A reader with this much unread is cut; its page connects again and gets the whole porch. */
const MAX_UNREAD_BYTES = 1024 * 1024;

/** Server-sent events: after each change every reader gets the porch as it is for them. */
export class DeskFeed {
  readonly #readers = new Map<ServerResponse, { readonly signInId: string; read(): Promise<unknown> }>();
  readonly #background: Background;
  readonly #reading = new Set<ServerResponse>();
  readonly #due = new Set<ServerResponse>();
  readonly #beat: ReturnType<typeof setInterval>;
  #gathering: ReturnType<typeof setTimeout> | undefined;

  constructor(background: Background) {
    this.#background = background;
    this.#beat = setInterval(() => {
      for (const reader of this.#readers.keys()) reader.write(': still here\n\n');
    }, BEAT_MS);
  }

  /** False when there are too many readers already. */
  add(reader: ServerResponse, signInId: string, read: () => Promise<unknown>): boolean {
    if (this.#readers.size >= MAX_READERS) return false;
    this.#readers.set(reader, { signInId, read });
    reader.on('error', () => reader.destroy());
    reader.on('close', () => this.#readers.delete(reader));
    this.#tell(reader);
    return true;
  }

  /** A sign-in has ended: who reads with it reads no more. */
  endSignIn(signInId: string): void {
    for (const [reader, { signInId: of }] of this.#readers) if (of === signInId) reader.end();
  }
  get size(): number {
    return this.#readers.size;
  }
  get signIns(): string[] {
    return [...this.#readers.values()].map(({ signInId }) => signInId);
  }

  changed = (): void => {
    this.#gathering ??= setTimeout(() => {
      this.#gathering = undefined;
      for (const reader of this.#readers.keys()) this.#tell(reader);
    }, GATHER_MS);
  };

  close(): void {
    clearInterval(this.#beat);
    clearTimeout(this.#gathering);
    for (const reader of this.#readers.keys()) reader.end();
    this.#readers.clear();
  }

  /** One read of a reader at a time, so that none is told an older porch after a newer one. */
  #tell(reader: ServerResponse): void {
    const known = this.#readers.get(reader);
    if (!known) return;
    if (this.#reading.has(reader)) {
      this.#due.add(reader);
      return;
    }
    this.#reading.add(reader);
    this.#background.run('telling the porch', async () => {
      try {
        const value = await known.read();
        if (reader.writableLength > MAX_UNREAD_BYTES) reader.destroy();
        else if (!reader.writableEnded) reader.write(`event: porch\ndata: ${JSON.stringify(value)}\n\n`);
      } catch (error) {
        // Signed out meanwhile, or the records are away: the page connects again and learns which.
        reader.end();
        if (refusalOf(error).code === 'INTERNAL') throw error;
      } finally {
        this.#reading.delete(reader);
        if (this.#due.delete(reader)) this.#tell(reader);
      }
    });
  }
}
