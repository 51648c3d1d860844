import { plainOutput } from '@porch/core';
import { MAX_OUTPUT_CHARACTERS } from '@porch/wire';
import type { Writable } from 'node:stream';

/** The beginning of what makes a terminal do something (ECMA-48), as far as it came. */
const unfinished = /\u001b(?:\[[0-?]*[ -/]*|[\]PX^_][^\u0007\u001b]*|[ -/]*)$/;
/** Nothing that is meant is longer. */
const MOST_UNFINISHED = 200;

/** What a command line prints, as text alone: written on as it comes, or kept up to a limit. */
export class PrintedText {
  readonly #to: Writable | undefined;
  readonly #decoder = new TextDecoder();
  #held = '';
  text = '';
  /** More was printed than is kept. */
  isCut = false;

  constructor(to: Writable | undefined) {
    this.#to = to;
  }

  /** `done`: it was taken, and more may come. */
  take(bytes: Uint8Array, done: () => void): void {
    const all = this.#held + this.#decoder.decode(bytes, { stream: true });
    const at = unfinished.exec(all)?.index ?? all.length;
    const end = all.length - at > MOST_UNFINISHED ? all.length : at;
    this.#held = all.slice(end);
    const plain = plainOutput(all.slice(0, end));
    if (this.#to) {
      this.#to.write(plain, done);
      return;
    }
    const room = MAX_OUTPUT_CHARACTERS - this.text.length;
    this.isCut ||= plain.length > room;
    this.text += plain.slice(0, room);
    done();
  }
}
