import { MAX_LINE_PRINTED_CHARACTERS, plainOutput } from '@porch/core';

/** Entries of what one command line prints, but for its end. */
const MOST_ENTRIES = 200;
/** Stands where something was left out. */
const LEFT_OUT = '…\n';
const MOST_TEXT = MAX_LINE_PRINTED_CHARACTERS - LEFT_OUT.length;

/** The first of a text, never half a character. */
const firstOf = (text: string, most: number): string =>
  text.slice(0, text.length > most && /[\ud800-\udbff]/.test(text[most - 1] ?? '') ? most - 1 : most);
const lastOf = (text: string, most: number): string => {
  const last = text.slice(-most);
  return text.length > most && /^[\udc00-\udfff]/.test(last) ? last.slice(1) : last;
};

/** What of a command line goes into the ledger: of each while its beginning and its end, and all of it where it is short. */
export class LineLog {
  #first = '';
  #last = '';
  #leftOut = 0;
  #entries = 0;
  #unsaid = 0;

  /** Characters that no entry holds. */
  get unsaid(): number {
    return this.#unsaid + this.#leftOut + this.#first.length + this.#last.length;
  }

  add(printed: string): void {
    const text = plainOutput(printed);
    const room = this.#last || this.#leftOut ? 0 : MOST_TEXT - this.#first.length;
    const first = firstOf(text, room);
    this.#first += first;
    const rest = this.#last + text.slice(first.length);
    this.#last = lastOf(rest, MOST_TEXT);
    this.#leftOut += rest.length - this.#last.length;
  }

  /** What stands in the next entries. `isLast`: they come however many there were. */
  take(isLast = false): string[] {
    const end = this.#leftOut ? LEFT_OUT + this.#last : this.#last;
    const entries = [this.#first, end].filter((text) => text !== '');
    const isSaid = isLast || this.#entries + entries.length <= MOST_ENTRIES;
    this.#unsaid += isSaid ? this.#leftOut : this.#leftOut + this.#first.length + this.#last.length;
    this.#first = this.#last = '';
    this.#leftOut = 0;
    if (!isSaid) return [];
    this.#entries += entries.length;
    return entries;
  }
}
