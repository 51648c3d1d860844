import type { Permission } from '@porch/core';
import type { Clock } from '@porch/wire';
import type { GrantBook } from './grant-book.ts';

export type LeaseState =
  { readonly name: 'running' } | { readonly name: 'paused'; readonly why: string } | { readonly name: 'over' };

const over: LeaseState = { name: 'over' };
const running: LeaseState = { name: 'running' };

/**
 * The right to go on with something, bound to one unbroken row of grants of one technician's key. Whoever acts outward asks
 * `isRunning` in the very tick that acts; the signal is for what waits.
 */
export interface Lease {
  readonly permission: Permission;
  readonly state: LeaseState;
  readonly isRunning: boolean;
  /** Aborted once it is over, and never before. */
  readonly signal: AbortSignal;
}

/** What is held at this computer, as leases: the one place that abilities ask. Without a grant a lease is over from the start. */
export class Held {
  readonly #grants: GrantBook;
  readonly #time: Clock;
  readonly #serviceNowMs: () => number;
  readonly #onEnd: () => void;
  /** Leases whose end somebody waits for; the others are looked at when something acts, and cost nothing meanwhile. */
  readonly #waitedFor = new Set<{ stateNow(): LeaseState; readonly controller: AbortController }>();
  #isClosed = false;
  #disarm: () => void = () => undefined;
  /** Why something that is allowed is not done just now. */
  pausedBy: (permission: Permission, signKey: string) => string | undefined = () => undefined;

  /** `onEnd`: a grant has ended by itself. */
  constructor(grants: GrantBook, time: Clock, serviceNowMs: () => number, onEnd: () => void) {
    this.#grants = grants;
    this.#time = time;
    this.#serviceNowMs = serviceNowMs;
    this.#onEnd = onEnd;
    grants.onTaken = () => this.follow();
  }

  /** Whether this key may do that in this very moment. */
  may(permission: Permission, signKey: string): boolean {
    return this.stateOf(permission, signKey).name === 'running';
  }
  /** Whether it is allowed, paused or not. */
  holds(permission: Permission, signKey: string): boolean {
    return this.#grants.holds(permission, signKey, this.#serviceNowMs());
  }
  stateOf(permission: Permission, signKey: string): LeaseState {
    if (!this.holds(permission, signKey)) return over;
    const why = this.pausedBy(permission, signKey);
    return why === undefined ? running : { name: 'paused', why };
  }

  during(permission: Permission, signKey: string): Lease {
    const since = this.#grants.sinceOf(permission, signKey, this.#serviceNowMs());
    let controller: AbortController | undefined;
    const stateNow = (): LeaseState => {
      if (this.#isClosed || since === undefined) return over;
      const now = this.#grants.sinceOf(permission, signKey, this.#serviceNowMs());
      return now === since ? this.stateOf(permission, signKey) : over;
    };
    const waitFor = (): AbortController => {
      const made = new AbortController();
      if (stateNow().name === 'over') made.abort();
      else this.#waitedFor.add({ stateNow, controller: made });
      return made;
    };
    this.#arm();
    return {
      permission,
      get state() {
        return stateNow();
      },
      get isRunning() {
        return stateNow().name === 'running';
      },
      get signal() {
        return (controller ??= waitFor()).signal;
      },
    };
  }

  /** Ends what is over. Called whenever something was taken or may have ended. */
  follow(): void {
    for (const one of [...this.#waitedFor])
      if (one.stateNow().name === 'over') {
        this.#waitedFor.delete(one);
        one.controller.abort();
      }
    this.#arm();
  }

  close(): void {
    this.#disarm();
    this.#isClosed = true;
    for (const { controller } of this.#waitedFor) controller.abort();
    this.#waitedFor.clear();
  }

  /** By a timer of its own: nothing else need happen for a grant to end. */
  #arm(): void {
    this.#disarm();
    const endMs = this.#grants.nextEndMs(this.#serviceNowMs());
    if (endMs === undefined) return;
    this.#disarm = this.#time.after(endMs - this.#serviceNowMs() + 5, () => {
      this.follow();
      this.#onEnd();
    });
  }
}
