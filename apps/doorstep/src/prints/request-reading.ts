import { createHash } from 'node:crypto';
import { CutShort, decodeIpp, type ReadMessage } from './ipp.ts';

/** What stands in front of a document takes no more than this. */
const MAX_MESSAGE_BYTES = 64 * 1024;

/** What becomes of a document: it is kept, it comes again later, or it is read to its end and nothing of it kept. */
export type Verdict = 'take' | 'wait' | 'drop';

export interface ReadRequest {
  readonly message: ReadMessage;
  readonly verdict: Verdict;
  /** What stands behind it, empty where there is none or it is not kept. */
  readonly document: Buffer;
  readonly isTooLarge: boolean;
  readonly sha256: string;
}

/**
 * Gathers a request as it comes: the message in front, then the document. `look` is asked with the message before anything of
 * the document is kept. Throws for what is no message.
 */
export class RequestReading {
  readonly #maxDocumentBytes: number;
  readonly #look: (message: ReadMessage) => Verdict;
  readonly #hash = createHash('sha256');
  readonly #parts: Buffer[] = [];
  #front = Buffer.alloc(0);
  #message: ReadMessage | undefined;
  #verdict: Verdict = 'drop';
  #bytes = 0;

  constructor(maxDocumentBytes: number, look: (message: ReadMessage) => Verdict) {
    this.#maxDocumentBytes = maxDocumentBytes;
    this.#look = look;
  }

  add(part: Buffer): void {
    if (this.#message) return this.#keep(part);
    this.#front = Buffer.concat([this.#front, part]);
    const message = this.#readFront();
    if (!message) return;
    this.#message = message;
    this.#verdict = this.#look(message);
    this.#keep(this.#front.subarray(message.endsAt));
    this.#front = Buffer.alloc(0);
  }

  whole(): ReadRequest {
    if (!this.#message) throw new CutShort();
    return {
      ...{ message: this.#message, verdict: this.#verdict, isTooLarge: this.#bytes > this.#maxDocumentBytes },
      ...{ document: Buffer.concat(this.#parts), sha256: this.#hash.digest('hex') },
    };
  }

  #readFront(): ReadMessage | undefined {
    try {
      return decodeIpp(this.#front.subarray(0, MAX_MESSAGE_BYTES));
    } catch (error) {
      if (!(error instanceof CutShort) || this.#front.length >= MAX_MESSAGE_BYTES) throw error;
      return undefined;
    }
  }

  #keep(part: Buffer): void {
    if (!part.length || this.#verdict !== 'take') return;
    this.#bytes += part.length;
    if (this.#bytes > this.#maxDocumentBytes) {
      this.#parts.length = 0;
      return;
    }
    this.#hash.update(part);
    this.#parts.push(part);
  }
}
