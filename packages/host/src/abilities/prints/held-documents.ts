import type { PrintedDocument } from '../../ports/prints-port.ts';

/** What is kept of one technician's printer, in memory alone. */
export const MAX_HELD_BYTES = 128 * 1024 * 1024;
export const MAX_HELD_DOCUMENTS = 30;

export interface HeldDocument extends PrintedDocument {
  readonly printId: string;
}

/**
 * What was printed and is still here: until it has arrived it is never dropped, and afterwards for as long as there is
 * room, so that a technician's page that was loaded anew has it again.
 */
export class HeldDocuments {
  readonly #documents = new Map<string, HeldDocument>();
  readonly #arrived = new Set<string>();

  get all(): HeldDocument[] {
    return [...this.#documents.values()];
  }
  of(printId: string): HeldDocument | undefined {
    return this.#documents.get(printId);
  }

  /** Whether so many bytes more find room, once what has arrived makes room for them. */
  hasRoomFor(sizeBytes: number): boolean {
    const waiting = this.all.filter(({ printId }) => !this.#arrived.has(printId));
    return waiting.length < MAX_HELD_DOCUMENTS && bytesOf(waiting) + sizeBytes <= MAX_HELD_BYTES;
  }

  add(document: HeldDocument): void {
    for (const printId of this.#arrived) {
      const isEnough =
        this.#documents.size < MAX_HELD_DOCUMENTS && bytesOf(this.all) + document.bytes.length <= MAX_HELD_BYTES;
      if (isEnough) break;
      this.#documents.delete(printId);
      this.#arrived.delete(printId);
    }
    this.#documents.set(document.printId, document);
  }

  /** True the first time. */
  hasArrived(printId: string): boolean {
    if (this.#arrived.has(printId) || !this.#documents.has(printId)) return false;
    this.#arrived.add(printId);
    return true;
  }
}

const bytesOf = (documents: readonly HeldDocument[]): number =>
  documents.reduce((sum, { bytes }) => sum + bytes.length, 0);
