import { TechnicianDoor } from '@porch/client';
import { isOver } from '@porch/core';
import { defineKept, type KeeperKit } from '../cli-ability.ts';
import { standingCalls } from './calls.ts';

/** At the door of a device. */
class KeptDoor {
  readonly #kit: KeeperKit;
  readonly #secret: TechnicianDoor;

  constructor(kit: KeeperKit) {
    this.#kit = kit;
    this.#secret = new TechnicianDoor(kit.connection);
    this.#secret.listeners.on('secret', () => kit.changed());
  }

  /** Waits until it wants the words, says them, and waits for what is decided there. */
  async prove(words: string, waitMs: number) {
    const state = () => this.#secret.state.name;
    await this.#atTheDoor(waitMs);
    if (state() !== 'wanted' && state() !== 'wrong') return this.#door;
    await this.#secret.prove(words);
    await this.#kit.until(() => ['wrong', 'impostor'].includes(state()) || this.#isInOrOver, waitMs);
    return this.#door;
  }

  async askWhoIsThere(waitMs: number) {
    await this.#atTheDoor(waitMs);
    this.#secret.askWhoIsThere();
    await this.#kit.until(() => this.#isInOrOver, waitMs);
    return this.#door;
  }

  close(): void {
    this.#secret.close();
  }

  get #isInOrOver(): boolean {
    const { state } = this.#kit.connection;
    return state.hasAccepted || isOver(state);
  }
  get #door() {
    const { state } = this.#kit.connection;
    return { secret: this.#secret.state, isIn: state.hasAccepted && !isOver(state), isOver: isOver(state) };
  }

  /** Until the device has said what it wants, or it is too late for that. */
  #atTheDoor(waitMs: number): Promise<boolean> {
    const isSaid = () => ['wanted', 'wrong', 'right'].includes(this.#secret.state.name);
    return this.#kit.until(() => isSaid() || this.#isInOrOver, waitMs);
  }
}

export const keptStanding = defineKept({
  name: 'standing',
  calls: standingCalls,
  begin: (kit) => new KeptDoor(kit),
  answer: {
    prove: (door, { words, waitMs }) => door.prove(words, waitMs),
    askWhoIsThere: (door, { waitMs }) => door.askWhoIsThere(waitMs),
  },
});
