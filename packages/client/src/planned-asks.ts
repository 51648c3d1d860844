import { leadOf, nextPlannedAsk, rulesOf, type Permission } from '@porch/core';
import { AppError, randomId } from '@porch/wire';
import type { LiveConnection } from './live/live-connection.ts';

/**
 * Asks what was planned as soon as the customer is in, while the technician who leads is there, and each thing once. What
 * waits for compared words is left to the technician.
 */
export class PlannedAsks {
  readonly #connection: LiveConnection;
  readonly #onTrouble: (error: unknown) => void;
  readonly #offs: (() => void)[];
  readonly #asked = new Set<Permission>();

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
    const isHolderThere = presence.some((row) => row.participantId === state.holderId && row.isConnected);
    if (status !== 'live' || leadOf(state)?.id !== participantId || !isHolderThere) return;
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
