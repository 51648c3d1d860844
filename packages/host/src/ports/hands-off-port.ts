import type { Resting } from '@porch/core';

/** What the person reads while it is in force; how long it lasts still is shown by whoever shows this. */
export interface RestingWords {
  readonly title: string;
  readonly line: string;
  /** What stands before the time that is left. */
  readonly atMost: string;
  /** The key that ends it, as it is called, and what it does. */
  readonly key: string;
  readonly keyDoes: string;
}

/** Called once `begin` has returned, and never before. */
export interface RestingListener {
  /** It holds from now on. */
  inForce(): void;
  /** The person ended it with the key that always works; or ended everything, with the keys for Stop. */
  lifted(by: 'key' | 'stop'): void;
  /** It is over for another reason, or cannot be done. */
  over(why: unknown): void;
}

export interface Rest {
  /** Resolves once mouse and keyboard work again, or the screen is seen again. */
  end(): Promise<void>;
}

/**
 * Keeps the person's own mouse and keyboard from working, or covers what they see, for a while. What does it must not
 * outlive this program, a program that stands still, or its time: each of them ends it without being asked.
 */
export interface HandsOffPort {
  /** Whether a picture can be taken of what lies beneath a cover. */
  readonly canCover: boolean;
  begin(what: Resting, words: RestingWords, forMs: number, on: RestingListener): Rest;
}
