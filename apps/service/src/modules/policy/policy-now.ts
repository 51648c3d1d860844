import type { Policy, PolicyBook } from '@porch/core';
import type { DataSource } from 'typeorm';
import { readPolicy } from './policy-records.ts';

/** The desk's rules, in memory: asked for at every turn, and read again every few seconds. */
export class PolicyNow {
  readonly #records: DataSource;
  readonly #onUnread: (unread: readonly string[]) => void;
  #book: PolicyBook | undefined;
  #written = '';
  #unread = '';

  /** `onUnread` hears once of what cannot be understood. */
  constructor(records: DataSource, onUnread: (unread: readonly string[]) => void) {
    this.#records = records;
    this.#onUnread = onUnread;
  }

  policyFor(team: string | undefined, atMs = Date.now()): Policy {
    if (!this.#book) throw new Error('the policy is asked for before it was read');
    return this.#book.policyFor(team, atMs);
  }

  /** True when anything changed. */
  async read(): Promise<boolean> {
    const { book, versions, topics, unread } = await readPolicy(this.#records);
    const written = JSON.stringify([versions, topics]);
    if (unread.join() !== this.#unread && unread.length) this.#onUnread(unread);
    this.#unread = unread.join();
    if (written === this.#written) return false;
    this.#written = written;
    this.#book = book;
    return true;
  }
}
