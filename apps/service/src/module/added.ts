import type { SessionEvent } from '@porch/core';
import type { SessionView } from '@porch/wire';
import type { EntityManager } from 'typeorm';
import type { SessionMoment } from './open-session.ts';
import type { Carriers } from './parcels.ts';

/** Runs in the same transaction as the events, for what must commit with them: codes, passes, the outbox. */
export type Alongside = (
  tx: EntityManager,
  session: SessionMoment,
  events: readonly SessionEvent[],
  nowMs: number,
) => Promise<void>;

/** What a technician's list says of a session beyond what the session is. */
export type Beside = Partial<Pick<SessionView, 'code' | 'invitations' | 'undelivered'>>;

/** Something that was opened with a sign-in, and ends with it. */
export interface OpenedWithSignIns {
  readonly signIns: readonly string[];
  endSignIn(signInId: string): void;
}

/** What a module adds to what others do. They ask for it through `Additions`, and know nobody by name. */
export interface Added {
  readonly alongside: Alongside;
  /** What is personal in the module's own tables goes, in the transaction that erases the session. */
  erase(tx: EntityManager, sessionId: string): Promise<void>;
  /** And what this process has in memory, afterwards. */
  erased(sessionId: string): void;
  /** For each of these sessions, what a list says beside it. */
  beside(sessionIds: readonly string[]): Promise<ReadonlyMap<string, Beside>>;
  readonly carriers: Partial<Carriers>;
  readonly opened: OpenedWithSignIns;
}

/** What all modules have added so far. Made before the first is built, complete when the last one is. */
export class Additions {
  readonly #all: Partial<Added>[] = [];

  add(added: Partial<Added>): void {
    for (const kind of Object.keys(added.carriers ?? {}))
      if (this.carrier(kind as keyof Carriers)) throw new Error(`two modules carry parcels of the kind ${kind}`);
    this.#all.push(added);
  }

  /** One after the other, in the modules' order: they share one transaction. */
  alongside: Alongside = async (tx, session, events, nowMs) => {
    for (const added of this.#all) await added.alongside?.(tx, session, events, nowMs);
  };

  async erase(tx: EntityManager, sessionId: string): Promise<void> {
    for (const added of this.#all) await added.erase?.(tx, sessionId);
  }

  erased(sessionId: string): void {
    for (const added of this.#all) added.erased?.(sessionId);
  }

  async beside(sessionIds: readonly string[]): Promise<ReadonlyMap<string, Beside>> {
    const parts = await Promise.all(this.#all.map((added) => added.beside?.(sessionIds)));
    return new Map(sessionIds.map((id) => [id, Object.assign({}, ...parts.map((part) => part?.get(id))) as Beside]));
  }

  carrier<K extends keyof Carriers>(kind: K): Carriers[K] | undefined {
    return this.#all.find((added) => added.carriers?.[kind])?.carriers?.[kind];
  }

  /** The sign-ins with which anything is open. */
  get signIns(): string[] {
    return [...new Set(this.#all.flatMap((added) => added.opened?.signIns ?? []))];
  }

  endSignIns(ids: readonly string[]): void {
    for (const id of ids) for (const added of this.#all) added.opened?.endSignIn(id);
  }
}
