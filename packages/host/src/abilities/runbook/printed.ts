import { COVERED, MAX_SAID_CHARACTERS, plainOutput, withoutSecrets } from '@porch/core';
import { MAX_OUTPUT_CHARACTERS, MAX_OUTPUT_PIECE } from '@porch/wire';

/** So many entries hold what a script prints as it comes; then only its end is said. */
const MOST_SAID = 12;

const isHalfAt = (text: string, at: number): boolean => at > 0 && /[\ud800-\udbff]/.test(text[at - 1] ?? '');
/** So much of a text, and never half a character. */
const upTo = (text: string, from: number, most: number): string => {
  const end = Math.min(text.length, from + most);
  return text.slice(from, isHalfAt(text, end) && end < text.length ? end - 1 : end);
};

/** What a script printed: kept up to a limit, without secrets, and told piece by piece. */
export class Printed {
  readonly #secrets: readonly string[];
  #held = '';
  #text = '';
  #total = 0;
  #saidUpTo = 0;
  #said = 0;
  #entries = 0;

  constructor(secrets: readonly string[]) {
    this.#secrets = secrets;
  }

  /** All that was printed, kept or not. */
  get total(): number {
    return this.#total;
  }
  get kept(): number {
    return this.#text.length;
  }
  /** Characters that no entry holds. */
  get unsaid(): number {
    return this.#total - this.#said;
  }

  print(raw: string): void {
    const text = withoutSecrets(this.#held + plainOutput(raw), this.#secrets);
    // What may be the beginning of a secret is not given out before it is known to be none.
    const begun = Math.max(0, ...this.#secrets.map((secret) => beginningAtEnd(text, secret)));
    this.#held = begun ? text.slice(-begun) : '';
    this.#keep(begun ? text.slice(0, -begun) : text);
  }
  /** Nothing more comes. */
  finish(): void {
    // What was held back is the beginning of a secret that was cut off, or too little to say anything of it.
    this.#keep(this.#held.length >= LEAST_BEGINNING ? COVERED : this.#held);
    this.#held = '';
  }

  /** What was printed from there on; undefined where there is nothing yet. */
  piece(from: number): string | undefined {
    return from < this.#text.length ? upTo(this.#text, from, MAX_OUTPUT_PIECE) : undefined;
  }

  /** What the next entry says; undefined when there is nothing, or enough was said. `isLast`: the end of what is left. */
  say(isLast = false): string | undefined {
    const left = this.#text.length - this.#saidUpTo;
    if (!left || (!isLast && this.#entries >= MOST_SAID)) return undefined;
    if (isLast && left > MAX_SAID_CHARACTERS) this.#saidUpTo = this.#text.length - MAX_SAID_CHARACTERS;
    if (isHalfAt(this.#text, this.#saidUpTo)) this.#saidUpTo++;
    const said = upTo(this.#text, this.#saidUpTo, MAX_SAID_CHARACTERS);
    this.#saidUpTo += said.length;
    this.#said += said.length;
    this.#entries++;
    return said;
  }

  #keep(text: string): void {
    this.#total += text.length;
    const room = MAX_OUTPUT_CHARACTERS - this.#text.length;
    if (room > 0) this.#text += upTo(text, 0, room);
  }
}

/** Less of a secret than this says nothing of it. */
const LEAST_BEGINNING = 4;
/** How many characters of the beginning of a secret a text ends with. */
function beginningAtEnd(text: string, secret: string): number {
  for (let length = Math.min(secret.length - 1, text.length); length > 0; length--)
    if (text.endsWith(secret.slice(0, length))) return length;
  return 0;
}
