import type { Policy, PolicyBook } from '@porch/core';
import type { DataSource } from 'typeorm';
import { policyIn, readRows } from './policy-records.ts';

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
    const rows = await readRows(this.#records);
    const written = JSON.stringify(rows);
    if (written === this.#written) return false;
    const { book, unread } = policyIn(rows);
    if (unread.join() !== this.#unread && unread.length) this.#onUnread(unread);
    this.#unread = unread.join();
    this.#written = written;
    this.#book = book;
    return true;
  }
}
