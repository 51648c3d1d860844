import { allPermissions, MAX_ASKED_TOGETHER, rulesOf, standingOf, type Permission } from '@porch/core';
import { randomId } from '@porch/wire';
import type { LiveConnection } from './live/live-connection.ts';

/**
 * After a return asks again for what was agreed to come back: the customer's side answers that by itself, as the person
 * there said, or asks them. Each thing once for each return; what was said no to, or taken back, is left alone.
 */
export class ReturnAsks {
  readonly #connection: LiveConnection;
  readonly #onTrouble: (error: unknown) => void;
  readonly #offs: (() => void)[];
  readonly #asked = new Set<string>();

  constructor(connection: LiveConnection, onTrouble: (error: unknown) => void) {
    this.#connection = connection;
    this.#onTrouble = onTrouble;
    const look = () => this.#look();
    this.#offs = [connection.on('entry', look), connection.on('caughtUp', look), connection.on('presence', look)];
  }

  close(): void {
    this.#offs.forEach((off) => off());
  }

  #look(): void {
    const { state, participantId, presence, status } = this.#connection;
    const { agreed, toAsk, returns } = state.slices['restart-and-return'];
    const isHolderThere = presence.some((row) => row.participantId === state.holderId && row.isConnected);
    if (status !== 'live' || agreed?.participantId !== participantId || !isHolderThere) return;
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
