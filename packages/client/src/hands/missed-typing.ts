/** As much as one act can type. */
export const MOST_MISSED_CHARACTERS = 2_000;
/** Who comes back later than this does not mean it any longer. */
export const MISSED_FORGOTTEN_MS = 5 * 60_000;

interface Typed {
  readonly text: string;
  readonly atMs: number;
}

/**
 * What somebody typed for a computer that could not be reached. It is never typed there by itself: the computer may show
 * something else by then. Whoever typed it is asked.
 */
export class MissedTyping {
  /** What was sent, newest last, for as long as it may turn out not to have come. */
  #sent: Typed[] = [];
  #missed: string[] = [];
  #isGone = false;
  #goneAtMs = 0;

  /** Characters that were not typed there, as far as anybody knows. */
  get text(): string {
    return this.#missed.join('');
  }
  /** Whether what is typed now is missed. */
  get isGone(): boolean {
    return this.#isGone;
  }

  sent(text: string, nowMs: number): void {
    this.#sent.push({ text, atMs: nowMs });
    if (this.#sent.length > MOST_MISSED_CHARACTERS) this.#sent.shift();
  }

  /** The line is gone, and had been since then: what was sent later did not come, or was not done. */
  gone(sinceMs: number, nowMs: number): void {
    if (this.#isGone) return;
    this.forgetOld(nowMs);
    this.#isGone = true;
    this.#goneAtMs = nowMs;
    for (const { text, atMs } of this.#sent) if (atMs > sinceMs) for (const letter of text) this.#add(letter);
    this.#sent = [];
  }

  /** A key, while nothing arrives. */
  key(key: string): void {
    if (!this.#isGone) return;
    if (key === 'Backspace') this.#missed.pop();
    else if (key === 'Enter') this.#add('\n');
    else if (key === 'Tab') this.#add('\t');
    else if ([...key].length === 1) this.#add(key);
  }
  /** A text that several keys made. */
  composed(text: string): void {
    if (this.#isGone) for (const letter of text) this.#add(letter);
  }

  /** The line is back: what is typed now arrives again. */
  back(): void {
    this.#isGone = false;
  }
  forget(): void {
    this.#missed = [];
    this.#sent = [];
  }
  forgetOld(nowMs: number): void {
    if (this.#missed.length && nowMs - this.#goneAtMs > MISSED_FORGOTTEN_MS) this.#missed = [];
  }

  #add(letter: string): void {
    if (this.#missed.length < MOST_MISSED_CHARACTERS) this.#missed.push(letter);
  }
}
