import type { EntityManager } from 'typeorm';
import { isConnectionTrouble } from '../db/connection-trouble.ts';
import type { Projection, SessionChange, Statement } from './projection.ts';

export interface ProjectingParts {
  readonly projections: readonly Projection[];
  /** One was at fault: the event stands, and the projection is behind. */
  onFault(projection: string, sessionId: string, error: unknown): void;
}

/** Writes what follows from a change, in the transaction that makes it. */
export class Projecting {
  readonly #parts: ProjectingParts;

  constructor(parts: ProjectingParts) {
    this.#parts = parts;
  }

  /** Hands back the names of those that are behind afterwards: those that were, and those that failed now. */
  async follow(tx: EntityManager, change: SessionChange, behind: readonly string[]): Promise<string[]> {
    const planned = this.#plan(
      this.#parts.projections.filter(({ name }) => !behind.includes(name)),
      (projection) => projection.apply(change),
      change.sessionId,
    );
    return [...behind, ...(await this.#write(tx, planned, change.sessionId))];
  }

  /** All of them anew, from a whole ledger. Hands back the names of those that could not be made. */
  async remake(tx: EntityManager, whole: SessionChange): Promise<string[]> {
    const { sessionId } = whole;
    const planned = this.#plan(
      this.#parts.projections,
      (projection) => [...projection.clear(sessionId), ...projection.apply(whole)],
      sessionId,
    );
    return this.#write(tx, planned, sessionId);
  }

  #plan(
    projections: readonly Projection[],
    statementsOf: (projection: Projection) => readonly Statement[],
    sessionId: string,
  ): Map<string, readonly Statement[] | undefined> {
    return new Map(
      projections.map((projection) => {
        try {
          return [projection.name, statementsOf(projection)];
        } catch (error) {
          this.#parts.onFault(projection.name, sessionId, error);
          return [projection.name, undefined];
        }
      }),
    );
  }

  async #write(
    tx: EntityManager,
    planned: ReadonlyMap<string, readonly Statement[] | undefined>,
    sessionId: string,
  ): Promise<string[]> {
    const faulty = [...planned].filter(([, statements]) => statements === undefined).map(([name]) => name);
    const due = [...planned].flatMap(([name, statements]) => (statements?.length ? [{ name, statements }] : []));
    if (!due.length) return faulty;
    const all = due.flatMap(({ statements }) => statements);
    if ((await this.#try(tx, all)) === undefined) return faulty;
    // One of them does not go: each by itself, so that the others do.
    for (const { name, statements } of due) {
      const error = await this.#try(tx, statements);
      if (error === undefined) continue;
      this.#parts.onFault(name, sessionId, error);
      faulty.push(name);
    }
    return faulty;
  }

  /** All of these or none, and the transaction goes on. Answers what stood in the way; trouble with the connection is thrown. */
  async #try(tx: EntityManager, statements: readonly Statement[]): Promise<unknown> {
    await tx.query('SAVEPOINT "projecting"');
    try {
      for (const { sql, values } of statements) await tx.query(sql, [...values]);
      await tx.query('RELEASE SAVEPOINT "projecting"');
      return undefined;
    } catch (error) {
      if (isConnectionTrouble(error)) throw error;
      await tx.query('ROLLBACK TO SAVEPOINT "projecting"');
      return error ?? new Error('it failed without saying why');
    }
  }
}
