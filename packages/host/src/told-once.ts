import type { Permission } from '@porch/core';
import type { Held } from './consent/held.ts';

/** Of whom it was told that they do something: once for each time that they may. */
export class ToldOnce {
  readonly #held: Pick<Held, 'holds'>;
  readonly #permission: Permission;
  readonly #signKeys = new Set<string>();

  constructor(held: Pick<Held, 'holds'>, permission: Permission) {
    this.#held = held;
    this.#permission = permission;
  }

  /** Whoever may no longer is told of anew when they may again. `but`: one who needs no leave. */
  follow(but?: string): void {
    for (const signKey of this.#signKeys)
      if (signKey !== but && !this.#held.holds(this.#permission, signKey)) this.#signKeys.delete(signKey);
  }
  forget(): void {
    this.#signKeys.clear();
  }

  /** Whether it is to be told now. */
  isFirst(signKey: string): boolean {
    if (this.#signKeys.has(signKey)) return false;
    this.#signKeys.add(signKey);
    return true;
  }
}
