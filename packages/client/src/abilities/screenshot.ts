import { consentHolderOf } from '@porch/core';
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import {
  AppError,
  decodeChunk,
  decodeWords,
  encodeChunk,
  MAX_SCREENSHOT_BYTES,
  MAX_SCREENSHOT_PIXELS,
  randomId,
  screenshotChannel,
  WORDS_TAG,
  type ScreenshotMessage,
} from '@porch/wire';
import type { LiveConnection } from '../live/live-connection.ts';
import { OpenAnswers } from '../open-answers.ts';
import { PieceReceiver, PieceSender } from '../pieces.ts';
import { SealedLine } from '../sealed-line.ts';
import { unlessUnreadable } from '../unless-unreadable.ts';
import { RefusedThere } from '../refused-there.ts';

/** A picture of a display as the customer's side sent it: R G B rows from the top, packed with raw DEFLATE. */
export interface TakenScreenshot {
  readonly id: string;
  readonly width: number;
  readonly height: number;
  readonly packed: Uint8Array;
}

/** Its pixels, R G B and no transparency, into a picture of R G B A words. */
export function fillWithRgb(rgba: Uint8Array | Uint8ClampedArray, rgb: Uint8Array): void {
  for (let from = 0, to = 0; to < rgba.length; from += 3, to += 4) {
    rgba[to] = rgb[from] ?? 0;
    rgba[to + 1] = rgb[from + 1] ?? 0;
    rgba[to + 2] = rgb[from + 2] ?? 0;
    rgba[to + 3] = 255;
  }
}

/** The customer's side said no, in its own words. */
export class ScreenshotRefused extends RefusedThere {}

/** The technician's side of screenshots: has one taken, and gives what was made of it to the customer. */
export class TechnicianScreenshots {
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<ScreenshotMessage>;
  readonly #off: () => void;
  readonly #answers: OpenAnswers;
  readonly #coming = new Map<string, PieceReceiver>();
  readonly #giving = new Map<string, PieceSender>();

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#answers = new OpenAnswers(connection.clock, (id) => {
      this.#coming.get(id)?.close();
      this.#coming.delete(id);
    });
    this.#line = new SealedLine(connection, screenshotChannel);
    this.#off = this.#line.listenPlain(
      (_from, plain) => this.#take(plain),
      (from) => from.id === connection.state.holderId,
    );
  }

  /** Rejects with ScreenshotRefused when the customer's side says no, with an AppError when nobody answers. */
  take(display: number): Promise<TakenScreenshot> {
    const screenshotId = randomId(this.#connection.random);
    return this.#ask(screenshotId, { type: 'take', screenshotId, display });
  }

  /** Gives a PNG to the customer. Resolves once it lies there. */
  async give(screenshotId: string, png: Uint8Array): Promise<void> {
    if (png.length > MAX_SCREENSHOT_BYTES) throw new AppError('FILE_TOO_LARGE');
    this.#giving.set(screenshotId, new PieceSender(png, screenshotId, this.#connection.clock));
    try {
      const message = { type: 'give', screenshotId, sizeBytes: png.length, sha256: bytesToHex(sha256(png)) } as const;
      await this.#ask(screenshotId, message);
    } finally {
      this.#giving.delete(screenshotId);
    }
  }

  /** Says that it was kept on this side. */
  async tellKept(screenshotId: string, png: Uint8Array): Promise<void> {
    const hash = bytesToHex(sha256(png));
    await this.#connection.command({ type: 'screenshot/tellKept', screenshotId, sha256: hash, fact: undefined });
  }

  close(): void {
    this.#off();
    this.#answers.close();
  }

  #ask<T>(id: string, message: ScreenshotMessage): Promise<T> {
    return this.#answers.wait(id, () => this.#tell(message));
  }

  #tell(message: ScreenshotMessage): boolean {
    const holder = consentHolderOf(this.#connection.state);
    return holder !== undefined && this.#line.send(holder.seat, message);
  }

  #take(plain: Uint8Array): void {
    if (plain[0] !== WORDS_TAG) {
      const chunk = unlessUnreadable(() => decodeChunk(plain));
      if (!chunk) return;
      this.#answers.waitOn(chunk.id);
      this.#coming.get(chunk.id)?.take(chunk);
      return;
    }
    const message = unlessUnreadable(() => decodeWords(screenshotChannel, plain));
    if (!message || !this.#answers.has(message.screenshotId)) return;
    const { screenshotId: id } = message;
    if (message.type === 'taken') this.#receive(message);
    else if (message.type === 'given') this.#answers.resolve(id, undefined);
    else if (message.type === 'refused') this.#answers.reject(id, new ScreenshotRefused(message.why));
    else if (message.type === 'want') {
      this.#answers.waitOn(id);
      const giving = this.#giving.get(id);
      const holder = consentHolderOf(this.#connection.state);
      if (holder) giving?.sendFrom(message.offset, (chunk) => this.#line.sendPlain(holder.seat, encodeChunk(chunk)));
    }
  }

  #receive({ screenshotId: id, width, height, sizeBytes }: Extract<ScreenshotMessage, { type: 'taken' }>): void {
    if (this.#coming.has(id)) return;
    if (width * height > MAX_SCREENSHOT_PIXELS)
      return this.#answers.reject(id, new ScreenshotRefused('that screen is too large'));
    const receiver = new PieceReceiver(
      sizeBytes,
      (offset) => this.#tell({ type: 'want', screenshotId: id, offset }),
      (packed) => {
        // Asking for what is behind the end says that everything is here.
        this.#tell({ type: 'want', screenshotId: id, offset: packed.length });
        this.#answers.resolve(id, { id, width, height, packed } satisfies TakenScreenshot);
      },
      this.#connection.clock,
    );
    this.#coming.set(id, receiver);
  }
}
