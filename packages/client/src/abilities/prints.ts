import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import { consentHolderOf, standingOf } from '@porch/core';
import {
  decodeChunk,
  decodeWords,
  MAX_PRINT_BYTES,
  printsChannel,
  WORDS_TAG,
  type PrinterIs,
  type PrintsMessage,
} from '@porch/wire';
import { isHolderThere } from '../holder-there.ts';
import { inBackground } from '../in-background.ts';
import type { LiveConnection } from '../live/live-connection.ts';
import { PieceReceiver } from '../pieces.ts';
import { SealedLine } from '../sealed-line.ts';
import { unlessUnreadable } from '../unless-unreadable.ts';

/** Kept in memory here; what is older is fetched again when it is wanted. */
const MAX_KEPT_BYTES = 2 * MAX_PRINT_BYTES;
/** A list that is longer than anybody prints comes from somebody who floods. */
const MAX_DOCUMENTS = 500;
/** Hashed at once: a turn of a page's loop. */
const SLICE_BYTES = 512 * 1024;
const PDF_HEAD = '%PDF-';

const wholePercent = (share: number): number => Math.floor(share * 100);

/** How the printer stands at the customer's computer. */
export interface PrinterThere {
  readonly is: PrinterIs;
  readonly name: string;
  readonly why: string;
}
/** Something that was printed. */
export interface PrintoutHere {
  readonly printId: string;
  readonly title: string;
  readonly sizeBytes: number;
  /** Of it that is here, 0 to 1. */
  readonly share: number;
  /** A PDF, as it was printed; undefined until it is here whole, or after it was dropped for others. */
  readonly bytes: Uint8Array | undefined;
  /** Why it is not here. */
  readonly trouble: string | undefined;
}

interface Known extends Omit<PrintoutHere, 'share'> {
  readonly sha256: string;
  bytes: Uint8Array | undefined;
  trouble: string | undefined;
}

/** The technician's side of printing: what is printed there arrives here by itself, one document after the other. */
export class TechnicianPrints {
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<PrintsMessage>;
  readonly #onChanged: () => void;
  readonly #offs: readonly (() => void)[];
  /** The oldest first. */
  readonly #known = new Map<string, Known>();
  #coming: { readonly printId: string; readonly pieces: PieceReceiver } | undefined;
  #hasLooked = false;
  #printer: PrinterThere | undefined;

  constructor(connection: LiveConnection, onChanged: () => void) {
    this.#connection = connection;
    this.#onChanged = onChanged;
    this.#line = new SealedLine(connection, printsChannel);
    const look = () => this.#look();
    this.#offs = [
      this.#line.listenPlain(
        (_from, plain) => this.#take(plain),
        (from) => from.id === connection.state.holderId,
      ),
      ...(['entry', 'presence'] as const).map((what) => connection.on(what, look)),
      // What was said while the line was away is said again.
      connection.on('caughtUp', () => {
        this.#hasLooked = false;
        look();
      }),
    ];
    look();
  }

  get printer(): PrinterThere | undefined {
    return this.#printer;
  }
  /** The newest first. */
  get documents(): PrintoutHere[] {
    return [...this.#known.values()]
      .reverse()
      .map(({ sha256: _hash, ...one }) => ({ ...one, share: this.#shareOf(one) }));
  }

  /** One that is not here any longer, or did not come whole, once more. */
  fetch(printId: string): void {
    const known = this.#known.get(printId);
    if (!known || known.bytes) return;
    known.trouble = undefined;
    this.#next();
    this.#onChanged();
  }
  /** How the printer stands, asked again: one that broke is tried again there. */
  lookAgain(): void {
    this.#send({ type: 'look' });
  }

  close(): void {
    this.#offs.forEach((off) => off());
    this.#coming?.pieces.close();
  }

  #shareOf({ printId, bytes }: Pick<Known, 'printId' | 'bytes'>): number {
    if (bytes) return 1;
    return this.#coming?.printId === printId ? this.#coming.pieces.share : 0;
  }

  /** Once each time that it is allowed, and that the other side is there anew. */
  #look(): void {
    const { state, participantId, status } = this.#connection;
    const may = standingOf(state, participantId, 'take-prints').name === 'allowed';
    const isThere = status === 'live' && isHolderThere(this.#connection);
    if (!may) this.#forgetPrinter();
    if (!may || !isThere) this.#hasLooked = false;
    else if (!this.#hasLooked) this.#hasLooked = this.#send({ type: 'look' });
  }

  /** What is here stays here; the rest never comes. */
  #forgetPrinter(): void {
    if (!this.#printer) return;
    this.#printer = undefined;
    this.#drop();
    for (const [printId, { bytes }] of this.#known) if (!bytes) this.#known.delete(printId);
    this.#onChanged();
  }

  #send(message: PrintsMessage): boolean {
    const holder = consentHolderOf(this.#connection.state);
    return holder !== undefined && this.#line.send(holder.seat, message);
  }

  #take(plain: Uint8Array): void {
    if (plain[0] !== WORDS_TAG) {
      const chunk = unlessUnreadable(() => decodeChunk(plain));
      if (!chunk || chunk.id !== this.#coming?.printId) return;
      const { pieces } = this.#coming;
      const before = wholePercent(pieces.share);
      pieces.take(chunk);
      // There are thousands of pieces, and a hundred steps that anybody sees.
      if (wholePercent(pieces.share) !== before) this.#onChanged();
      return;
    }
    const message = unlessUnreadable(() => decodeWords(printsChannel, plain));
    if (message?.type === 'printer') this.#printer = { is: message.is, name: message.name, why: message.why };
    else if (message?.type === 'document') this.#hear(message);
    else if (message?.type === 'refused') this.#fail(message.printId, message.why);
    else return;
    this.#onChanged();
  }

  #hear({ printId, title, sizeBytes, sha256: hash }: Extract<PrintsMessage, { type: 'document' }>): void {
    const known = this.#known.get(printId);
    if (!known && this.#known.size < MAX_DOCUMENTS) {
      this.#known.set(printId, { printId, title, sizeBytes, sha256: hash, bytes: undefined, trouble: undefined });
    } else if (known?.trouble) known.trouble = undefined;
    // On a line that is new, what was on its way begins anew.
    if (this.#coming?.printId === printId) this.#drop();
    this.#next();
  }

  /** One at a time, the oldest first, as long as there is room for it. */
  #next(): void {
    if (this.#coming) return;
    const wanted = [...this.#known.values()].find(({ bytes, trouble }) => !bytes && trouble === undefined);
    if (!wanted) return;
    const { printId, sizeBytes } = wanted;
    this.#makeRoomFor(sizeBytes);
    const pieces = new PieceReceiver(
      sizeBytes,
      (offset) => this.#send({ type: 'want', printId, offset }),
      (bytes) => inBackground('looking through a printout', this.#finish(wanted, bytes)),
      this.#connection.clock,
    );
    this.#coming = { printId, pieces };
  }

  #makeRoomFor(sizeBytes: number): void {
    const kept = [...this.#known.values()].filter(({ bytes }) => bytes);
    let sum = kept.reduce((all, one) => all + one.sizeBytes, 0);
    for (const one of kept) {
      if (sum + sizeBytes <= MAX_KEPT_BYTES) return;
      [one.bytes, one.trouble] = [undefined, ''];
      sum -= one.sizeBytes;
    }
  }

  async #finish(known: Known, bytes: Uint8Array): Promise<void> {
    const { printId, sha256: said, sizeBytes } = known;
    const hash = sha256.create();
    for (let at = 0; at < bytes.length; at += SLICE_BYTES) {
      hash.update(bytes.subarray(at, at + SLICE_BYTES));
      await new Promise<void>((resolve) => this.#connection.clock.after(0, () => resolve()));
    }
    if (this.#coming?.printId !== printId) return;
    this.#drop();
    const isWhole = bytesToHex(hash.digest()) === said && new TextDecoder().decode(bytes.subarray(0, 5)) === PDF_HEAD;
    if (isWhole) {
      known.bytes = bytes;
      // Asking for what is behind the end says that everything is here.
      this.#send({ type: 'want', printId, offset: sizeBytes });
    } else known.trouble = 'what arrived is not what was sent';
    this.#next();
    this.#onChanged();
  }

  #fail(printId: string, why: string): void {
    const known = this.#known.get(printId);
    if (!known || known.bytes) return;
    known.trouble = why;
    if (this.#coming?.printId === printId) this.#drop();
    this.#next();
  }
  #drop(): void {
    this.#coming?.pieces.close();
    this.#coming = undefined;
  }
}
