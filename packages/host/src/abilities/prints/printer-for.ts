import type { Participant, PrinterGone, PrintRefused } from '@porch/core';
import { randomId, type PrinterIs, type PrintsMessage } from '@porch/wire';
import type { Lease } from '../../consent/held.ts';
import type { Kit } from '../../kit.ts';
import {
  PrinterRefused,
  type OpenPrinter,
  type PrintedDocument,
  type PrinterOrder,
  type PrintsPort,
} from '../../ports/prints-port.ts';
import { HeldDocuments } from './held-documents.ts';

/** In one session, for one technician: whoever prints more floods. */
export const MAX_PRINTS = 500;
/** What could not be printed is said no more often than this. */
const SAY_REFUSED_EVERY_MS = 5_000;
/** After a printer broke, it is not tried again sooner. */
const ANEW_AFTER_MS = 5_000;

export interface PrinterParts {
  readonly kit: Kit;
  readonly port: PrintsPort;
  readonly from: Participant;
  readonly lease: Lease;
  send(message: PrintsMessage): void;
}

/** One technician's printer at this computer: there for as long as they may, and what was printed on it. */
export class PrinterFor {
  readonly lease: Lease;
  readonly held = new HeldDocuments();
  readonly #parts: PrinterParts;
  readonly #kit: Kit;
  readonly #title: string;
  readonly #ends = new AbortController();
  #open: OpenPrinter | undefined;
  #standing: { is: PrinterIs; why: string } = { is: 'opening', why: '' };
  #working: Promise<void>;
  #count = 0;
  #saidRefusedAtMs = -Infinity;
  #triedAtMs: number;

  constructor(parts: PrinterParts) {
    this.#parts = parts;
    this.#kit = parts.kit;
    this.lease = parts.lease;
    const { prints, kernel } = parts.kit.words;
    this.#title = prints.printer({ who: parts.from.name ?? kernel.technician });
    this.#triedAtMs = this.#kit.time.nowMs();
    this.#working = this.#begin();
  }

  get who(): string {
    return this.#parts.from.name ?? this.#kit.words.kernel.technician;
  }
  get isThere(): boolean {
    return this.#open !== undefined;
  }

  /** How it stands, and everything that is still here. A printer that broke is tried again. */
  tell(): void {
    if (this.#standing.is === 'broken' && this.#kit.time.nowMs() - this.#triedAtMs >= ANEW_AFTER_MS) {
      this.#triedAtMs = this.#kit.time.nowMs();
      this.#stands('opening');
      this.#working = this.#working.then(() => this.#begin());
    } else this.#tellStanding();
    for (const { bytes, ...about } of this.held.all)
      this.#parts.send({ type: 'document', ...about, sizeBytes: bytes.length });
  }

  /** Somebody may have paused or gone on. */
  look(): void {
    if (!this.isThere) return;
    const { state } = this.lease;
    if (state.name === 'paused') this.#stands('resting', state.why);
    else if (state.name === 'running') this.#stands('ready');
  }

  async close(): Promise<void> {
    this.#ends.abort();
    // Whoever prints from now on is told no, before anything is waited for.
    const closing = this.#open?.close();
    await this.#working;
    await (closing ?? this.#open?.close());
    this.#gone('closed');
  }

  async #begin(): Promise<void> {
    try {
      const open = await this.#parts.port.open(this.#order(), this.#ends.signal);
      this.#open = open;
      if (this.#ends.signal.aborted) return;
      this.#report((fact) => ({ type: 'prints/tellPrinterAdded', participantId: this.#id, name: this.#title, fact }));
      this.#stands('ready');
      this.#kit.changed();
    } catch (error) {
      if (this.#ends.signal.aborted) return;
      this.#kit.log.warn({ why: String(error) }, 'no printer could be added');
      this.#stands('broken', error instanceof PrinterRefused ? error.message : 'their computer takes no printer');
    }
  }

  #order(): PrinterOrder {
    return {
      title: this.#title,
      room: (sizeBytes) => this.#room(sizeBytes),
      take: (document) => this.#take(document),
      refused: (why) => this.#refused(why),
      broke: (error) => {
        this.#kit.log.warn({ why: String(error) }, 'the printer is not there any longer');
        this.#gone('broken');
        this.#stands('broken', 'it vanished from their list of printers');
        this.#kit.changed();
      },
    };
  }

  #room(sizeBytes: number): 'later' | 'never' | undefined {
    if (this.#ends.signal.aborted || this.lease.state.name === 'over' || this.#count >= MAX_PRINTS) return 'never';
    return this.lease.isRunning && this.held.hasRoomFor(sizeBytes) ? undefined : 'later';
  }

  #take(document: PrintedDocument): boolean {
    const { length: sizeBytes } = document.bytes;
    if (this.#room(sizeBytes)) {
      this.#refused('no-room');
      return false;
    }
    this.#count += 1;
    const printId = randomId(this.#kit.random);
    const { title, sha256 } = document;
    this.held.add({ ...document, printId });
    // The person here hears of it as it is printed, and not once somebody has it.
    this.#report((fact) => ({
      ...{ type: 'prints/tellPrinted', printId, participantId: this.#id, title, sizeBytes, sha256, fact },
    }));
    this.#parts.send({ type: 'document', printId, title, sizeBytes, sha256 });
    return true;
  }

  #refused(why: PrintRefused): void {
    const nowMs = this.#kit.time.nowMs();
    if (this.#ends.signal.aborted || nowMs - this.#saidRefusedAtMs < SAY_REFUSED_EVERY_MS) return;
    this.#saidRefusedAtMs = nowMs;
    this.#report((fact) => ({ type: 'prints/tellRefused', participantId: this.#id, why, fact }));
  }

  get #id(): string {
    return this.#parts.from.id;
  }
  #report(make: Parameters<Kit['report']>[0]): void {
    this.#kit.report(make);
  }
  #gone(how: PrinterGone): void {
    if (!this.#open) return;
    this.#open = undefined;
    this.#report((fact) => ({ type: 'prints/tellPrinterGone', participantId: this.#id, how, fact }));
  }
  #stands(is: PrinterIs, why = ''): void {
    if (this.#standing.is === is && this.#standing.why === why) return;
    this.#standing = { is, why };
    this.#tellStanding();
  }
  #tellStanding(): void {
    this.#parts.send({ type: 'printer', ...this.#standing, name: this.#title });
  }
}
