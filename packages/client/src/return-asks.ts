import { allPermissions, MAX_ASKED_TOGETHER, rulesOf, standingOf, type Permission } from '@porch/core';
import { randomId } from '@porch/wire';
import type { LiveConnection } from './live/live-connection.ts';
import { whileHolderIsThere } from './while-holder-is-there.ts';

/**
 * After a return asks again for what was agreed to come back: the customer's side answers that by itself, as the person
 * there said, or asks them. Each thing once for each return; what was said no to, or taken back, is left alone.
 */
export class ReturnAsks {
  readonly #connection: LiveConnection;
  readonly #onTrouble: (error: unknown) => void;
  readonly #off: () => void;
  readonly #asked = new Set<string>();

  constructor(connection: LiveConnection, onTrouble: (error: unknown) => void) {
    this.#connection = connection;
    this.#onTrouble = onTrouble;
    this.#off = whileHolderIsThere(connection, () => this.#look());
  }

  close(): void {
    this.#off();
  }

  #look(): void {
    const { state, participantId } = this.#connection;
    const { agreed, toAsk, returns } = state.slices['restart-and-return'];
    if (agreed?.participantId !== participantId) return;
    const isOpen = (one: Permission) =>
      standingOf(state, participantId, one).name === 'over' && !this.#asked.has(`${returns} ${one}`);
    // What others need stands before them.
    const open = allPermissions.filter((one) => toAsk.includes(one) && isOpen(one));
    const isThere = (name: string) => standingOf(state, participantId, name as Permission).name === 'allowed';
    const together = open.filter((one) => !rulesOf(one).isSensitive);
    const canBegin = (one: Permission): boolean => {
      const { needs } = rulesOf(one);
      return (
        needs === undefined ||
        isThere(needs) ||
        (!rulesOf(one).isSensitive && together.some((other) => other === needs))
      );
    };
    // What needs something else is asked for once that is there.
    const usual = together.filter(canBegin).slice(0, MAX_ASKED_TOGETHER);
    const alone = open.filter((one) => rulesOf(one).isSensitive && canBegin(one));
    for (const permissions of [...(usual.length ? [usual] : []), ...alone.map((one) => [one])]) {
      for (const one of permissions) this.#asked.add(`${returns} ${one}`);
      this.#connection
        .command({ type: 'askPermissions', askId: randomId(this.#connection.random), permissions: [...permissions] })
        .catch(this.#onTrouble);
    }
  }
}
