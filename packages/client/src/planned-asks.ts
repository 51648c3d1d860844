import { leadOf, nextPlannedAsk, rulesOf, type Permission } from '@porch/core';
import { AppError, randomId } from '@porch/wire';
import type { LiveConnection } from './live/live-connection.ts';
import { whileHolderIsThere } from './while-holder-is-there.ts';

/**
 * Asks what was planned as soon as the customer is in, while the technician who leads is there, and each thing once. What
 * waits for compared words is left to the technician.
 */
export class PlannedAsks {
  readonly #connection: LiveConnection;
  readonly #onTrouble: (error: unknown) => void;
  readonly #off: () => void;
  readonly #asked = new Set<Permission>();

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
    if (leadOf(state)?.id !== participantId) return;
    const permissions = nextPlannedAsk(state, participantId).filter((one) => !this.#asked.has(one));
    if (!permissions.length) return;
    for (const permission of permissions) this.#asked.add(permission);
    this.#ask(permissions).catch(this.#onTrouble);
  }

  async #ask(permissions: readonly Permission[]): Promise<void> {
    try {
      await this.#command(permissions);
    } catch (error) {
      if (!(error instanceof AppError) || error.code !== 'WORDS_NOT_COMPARED') throw error;
      const isFree = (one: Permission): boolean => {
        const { isHandsOn, needs } = rulesOf(one);
        return !isHandsOn && (needs === undefined || isFree(needs));
      };
      const free = permissions.filter(isFree);
      if (free.length) await this.#command(free);
    }
  }

  #command(permissions: readonly Permission[]): Promise<unknown> {
    const askId = randomId(this.#connection.random);
    return this.#connection.command({ type: 'askPermissions', askId, permissions: [...permissions] });
  }
}
