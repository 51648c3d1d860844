import { consentHolderOf } from '@porch/core';
import {
  AppError,
  clipboardChannel,
  decodeChunk,
  decodeWords,
  encodeChunk,
  MAX_CLIP_BYTES,
  randomId,
  WORDS_TAG,
  type ClipboardMessage,
  type ClipBytesKind,
  type ClipOffer,
} from '@porch/wire';
import { Listeners } from '../listeners.ts';
import type { LiveConnection } from '../live/live-connection.ts';
import { OpenAnswers } from '../open-answers.ts';
import { PieceReceiver, PieceSender } from '../pieces.ts';
import { SealedLine } from '../sealed-line.ts';
import { unlessUnreadable } from '../unless-unreadable.ts';
import { RefusedThere } from '../refused-there.ts';

/** The customer's side said no, in its own words, or it was stopped here. */
export class ClipRefused extends RefusedThere {}

/** Nothing that moves for this long is waited for any longer. */
const SILENCE_MS = 30_000;

export interface ClipProgress {
  readonly direction: 'given' | 'read';
  readonly kind: ClipBytesKind;
  readonly movedBytes: number;
  readonly sizeBytes: number;
}

interface Moving {
  readonly progress: ClipProgress;
  readonly pieces?: PieceReceiver;
  readonly sending?: PieceSender;
}

/** The technician's side of both clipboards. One thing moves at a time; each can be stopped. */
export class TechnicianClipboard {
  readonly listeners = new Listeners<{ copied: ClipOffer | undefined; moving: ClipProgress | undefined }>();
  /** What was copied there last, since it may be read. */
  offer: ClipOffer | undefined;
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<ClipboardMessage>;
  readonly #off: () => void;
  readonly #answers: OpenAnswers;
  readonly #moving = new Map<string, Moving>();

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#answers = new OpenAnswers(connection.clock, (copyId) => this.#settled(copyId), SILENCE_MS);
    this.#line = new SealedLine(connection, clipboardChannel);
    this.#off = this.#line.listenPlain(
      (_from, plain) => this.#take(plain),
      (from) => from.id === consentHolderOf(connection.state)?.id,
    );
  }

  /** What was copied there last. Rejects with ClipRefused when it is not there any longer, or may not be read. */
  read(kind: ClipBytesKind): Promise<Uint8Array> {
    const { offer } = this;
    const part = offer?.parts.find((one) => one.kind === kind);
    if (!offer || !part) return Promise.reject(new ClipRefused('something else was copied meanwhile'));
    const { copyId } = offer;
    return this.#move(copyId, { direction: 'read', kind, movedBytes: 0, sizeBytes: part.sizeBytes }, () => {
      const pieces = new PieceReceiver(
        part.sizeBytes,
        (offset) => {
          this.#progress(copyId, offset);
          this.#tell({ type: 'want', copyId, kind, offset });
        },
        (bytes) => this.#answers.resolve(copyId, bytes),
        this.#connection.clock,
      );
      return { pieces };
    });
  }

  /** Puts this onto their clipboard. Resolves once it can be pasted there. */
  async put(kind: ClipBytesKind, bytes: Uint8Array): Promise<void> {
    if (bytes.length > MAX_CLIP_BYTES) throw new AppError('FILE_TOO_LARGE');
    const copyId = randomId(this.#connection.random);
    const progress: ClipProgress = { direction: 'given', kind, movedBytes: 0, sizeBytes: bytes.length };
    await this.#move(copyId, progress, () => {
      this.#tell({ type: 'put', copyId, kind, sizeBytes: bytes.length });
      return { sending: new PieceSender(bytes, copyId, this.#connection.clock) };
    });
  }

  /** Puts files onto their clipboard that were given and have arrived. */
  async putFiles(fileIds: readonly string[]): Promise<void> {
    const copyId = randomId(this.#connection.random);
    const progress: ClipProgress = { direction: 'given', kind: 'text', movedBytes: 0, sizeBytes: 0 };
    await this.#move(copyId, progress, () => {
      this.#tell({ type: 'putFiles', copyId, fileIds: [...fileIds] });
      return {};
    });
  }

  /** Nothing more of what moves goes on. */
  stop(): void {
    for (const copyId of [...this.#moving.keys()]) {
      this.#tell({ type: 'stopped', copyId });
      this.#answers.reject(copyId, new ClipRefused('cancelled by hand'));
    }
  }

  /** The right to read, or whoever it was, has gone. */
  forget(): void {
    if (!this.offer) return;
    this.offer = undefined;
    this.listeners.emit('copied', undefined);
  }

  close(): void {
    this.#off();
    this.#answers.close();
    this.listeners.clear();
  }

  #move<T>(
    copyId: string,
    progress: ClipProgress,
    begin: () => { pieces?: PieceReceiver; sending?: PieceSender },
  ): Promise<T> {
    if (this.#moving.size) return Promise.reject(new ClipRefused('too many are on their way'));
    if (!consentHolderOf(this.#connection.state)) return Promise.reject(new AppError('NO_CONSENT_HOLDER'));
    return this.#answers.wait(copyId, () => {
      this.#moving.set(copyId, { progress });
      this.listeners.emit('moving', progress);
      const begun = begin();
      const known = this.#moving.get(copyId);
      if (known) this.#moving.set(copyId, { ...known, ...begun });
      else begun.pieces?.close();
      return true;
    });
  }

  /** A sign of life: from now on it is waited for as long again. */
  #progress(copyId: string, movedBytes: number): void {
    const moving = this.#moving.get(copyId);
    if (!moving) return;
    const progress = { ...moving.progress, movedBytes };
    this.#moving.set(copyId, { ...moving, progress });
    this.#answers.waitOn(copyId);
    this.listeners.emit('moving', progress);
  }

  #settled(copyId: string): void {
    this.#moving.get(copyId)?.pieces?.close();
    this.#moving.delete(copyId);
    this.listeners.emit('moving', undefined);
  }

  #tell(message: ClipboardMessage): void {
    const holder = consentHolderOf(this.#connection.state);
    if (holder) this.#line.send(holder.seat, message);
  }

  #take(plain: Uint8Array): void {
    if (plain[0] !== WORDS_TAG) {
      const chunk = unlessUnreadable(() => decodeChunk(plain));
      if (chunk) this.#moving.get(chunk.id)?.pieces?.take(chunk);
      return;
    }
    const message = unlessUnreadable(() => decodeWords(clipboardChannel, plain));
    if (!message) return;
    if (message.type === 'copied') {
      this.offer = message.offer;
      this.listeners.emit('copied', message.offer);
    } else if (message.type === 'want') this.#send(message.copyId, message.offset);
    else if (message.type === 'placed') this.#answers.resolve(message.copyId, undefined);
    else if (message.type === 'refused') this.#answers.reject(message.copyId, new ClipRefused(message.why));
  }

  #send(copyId: string, offset: number): void {
    const moving = this.#moving.get(copyId);
    const holder = consentHolderOf(this.#connection.state);
    if (!moving?.sending || !holder) return;
    this.#progress(copyId, offset);
    moving.sending.sendFrom(offset, (chunk) => this.#line.sendPlain(holder.seat, encodeChunk(chunk)));
  }
}
