import { keyPieces } from '@porch/client';
import { callKeeper } from '../../keeper/call-keeper.ts';
import type { Call } from '../../keeper/calls.ts';

/** As much is said at once of what was taken. */
const SAY_TOOK_BYTES = 32 * 1024;

/** What is typed here, on its way to the process that keeps the session: one after the other, as it was pressed. */
export class Typing {
  readonly #session: string | undefined;
  #last: Promise<void> = Promise.resolve();
  #text = '';
  #tookBytes = 0;

  constructor(session: string | undefined) {
    this.#session = session;
  }

  /** Resolves once it was handed on. */
  type(text: string): Promise<void> {
    this.#text += text;
    this.#add(async () => {
      // What was pressed meanwhile goes together.
      const all = this.#text;
      this.#text = '';
      for (const part of keyPieces(all)) await this.#call({ call: 'typeOnLine', text: part });
    });
    return this.#last;
  }
  took(bytes: number): void {
    this.#tookBytes += bytes;
    if (this.#tookBytes < SAY_TOOK_BYTES) return;
    const took = this.#tookBytes;
    this.#tookBytes = 0;
    this.#add(() => this.#call({ call: 'tookOfLine', bytes: took }));
  }
  resize(size: { readonly columns: number; readonly rows: number }): void {
    this.#add(() => this.#call({ call: 'resizeLine', ...size }));
  }
  shut(): void {
    this.#add(() => this.#call({ call: 'shutLine' }));
  }
  /** Resolves once nothing is on its way. */
  done(): Promise<void> {
    return this.#last;
  }

  async #call(call: Call): Promise<void> {
    await callKeeper(this.#session, call);
  }
  /** That the session is gone whoever waits for the end of the command line hears; here it only ends what waits. */
  #add(work: () => Promise<void>): void {
    this.#last = this.#last.then(work).catch(() => undefined);
  }
}
