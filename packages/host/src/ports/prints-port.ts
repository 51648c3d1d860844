import type { PrintRefused } from '@porch/core';

/** What somebody printed. */
export interface PrintedDocument {
  /** As the program that printed it calls it, without control characters, shortened. */
  readonly title: string;
  /** A PDF. */
  readonly bytes: Uint8Array;
  /** Lower-case hex of all bytes. */
  readonly sha256: string;
}

/** What a printer is told when it is opened. */
export interface PrinterOrder {
  /** As people read it in the list of printers. */
  readonly title: string;
  /** Whether so many bytes more are taken just now: undefined when they are, else whether it is worth waiting. */
  room(sizeBytes: number): 'later' | 'never' | undefined;
  /** Asks for room again, in the tick in which it takes the document. False: it was not taken. */
  take(document: PrintedDocument): boolean;
  refused(why: PrintRefused): void;
  /** It vanished from the list, and could not be put there again. */
  broke(error: unknown): void;
}

export interface OpenPrinter {
  /** Takes nothing any longer from this moment on, and goes from the list as soon as the computer's print system lets it. */
  close(): Promise<void>;
}

/** Printers that can be put into this computer's list of them without any rights. */
export interface PrintsPort {
  /** Rejects with an error whose message says to technicians why there is none. */
  open(order: PrinterOrder, signal: AbortSignal): Promise<OpenPrinter>;
}

/** Why no printer can be had, in words for technicians. */
export class PrinterRefused extends Error {}
