import { randomInt, randomUUID, timingSafeEqual } from 'node:crypto';
import {
  decideCloseCode,
  decideUseCode,
  decideWithdrawCode,
  evolveCode,
  isRefusal,
  makeCodeDigits,
  type CodeSeat,
  type CodeState,
  type SessionEvent,
} from '@porch/core';
import { AppError, type CodeView } from '@porch/wire';
import type { DataSource, EntityManager } from 'typeorm';
import { CodeEntity, type CodeRow } from './code-table.ts';
import type { CodeSecrets } from '../../auth/tokens.ts';
import { databaseNowMs } from '../../db/data-source.ts';

/** With ten million codes and a few hundred open ones, more tries than this means something is broken. */
const MAX_DRAWS = 50;
const MAX_ROTATED_AT_ONCE = 50;

const isSame = (said: string, right: string): boolean =>
  said.length === right.length && timingSafeEqual(Buffer.from(said), Buffer.from(right));

const stateOf = (row: CodeRow): CodeState =>
  row.state === 'withdrawn'
    ? { name: 'withdrawn', sessionId: row.sessionId }
    : row.state === 'used'
      ? { name: 'used', sessionId: row.sessionId, expiresAtMs: row.expiresAt.getTime(), seats: row.seats as CodeSeat[] }
      : { name: 'free', sessionId: row.sessionId, expiresAtMs: row.expiresAt.getTime() };

/** One-time codes in the records: made, shown again, used, withdrawn. */
export class CodeDesk {
  readonly #records: DataSource;
  readonly #secrets: CodeSecrets;
  readonly #lifetimeMs: (technicianId: string) => number;

  constructor(records: DataSource, secrets: CodeSecrets, lifetimeMs: (technicianId: string) => number) {
    this.#records = records;
    this.#secrets = secrets;
    this.#lifetimeMs = lifetimeMs;
  }

  /** Undefined when the secret that it was kept with is lost: nobody can use it then, and a new one is made. */
  view(row: CodeRow, nowMs: number): CodeView | undefined {
    const digits = this.#secrets.open(row.sealedDigits);
    if (digits === undefined) return undefined;
    return {
      codeId: row.id,
      digits,
      secondNumber: this.#secrets.secondNumber(row.id),
      remainingMs: Math.max(0, row.expiresAt.getTime() - nowMs),
      sessionId: row.sessionId,
    };
  }

  async issue(
    tx: EntityManager,
    sessionId: string,
    technicianId: string,
    nowMs: number,
    expiresAt = new Date(nowMs + this.#lifetimeMs(technicianId)),
  ): Promise<{ row: CodeRow; event: SessionEvent }> {
    const codes = tx.getRepository(CodeEntity);
    for (let draw = 0; draw < MAX_DRAWS; draw++) {
      const digits = makeCodeDigits((below) => randomInt(below));
      const [lookup, lookups] = [this.#secrets.lookup(digits), this.#secrets.lookups(digits)];
      const rival = await codes
        .createQueryBuilder('c')
        .where(`c.lookup IN (:...lookups) AND c.state <> 'withdrawn' AND c."expires_at" > clock_timestamp()`, {
          lookups,
        })
        .getExists();
      if (rival) continue;
      const row: CodeRow = {
        id: randomUUID(),
        sessionId,
        technicianId,
        lookup,
        sealedDigits: this.#secrets.seal(digits),
        state: 'free',
        seats: [],
        issuedAt: new Date(nowMs),
        expiresAt,
      };
      await codes.insert(row);
      return {
        row,
        event: {
          type: 'codeIssued',
          by: `technician:${technicianId}`,
          codeId: row.id,
          expiresAtMs: row.expiresAt.getTime(),
        },
      };
    }
    throw new Error('no free one-time code was found');
  }

  /** Sessions in which this technician has a code that nobody has used. */
  async freeOf(technicianId: string): Promise<string[]> {
    const rows = await this.#records
      .getRepository(CodeEntity)
      .createQueryBuilder('c')
      .where(`c."technician_id" = :technicianId AND c.state = 'free' AND c."expires_at" > clock_timestamp()`, {
        technicianId,
      })
      .getMany();
    return rows.map((row) => row.sessionId);
  }

  /** The free codes of these sessions, as their technicians see them. */
  async beside(sessionIds: readonly string[]): Promise<ReadonlyMap<string, { code?: CodeView }>> {
    const rows = await this.#records
      .getRepository(CodeEntity)
      .createQueryBuilder('c')
      .where(`c."session_id" = ANY(:sessionIds) AND c.state = 'free' AND c."expires_at" > clock_timestamp()`, {
        sessionIds,
      })
      .getMany();
    const nowMs = Date.now();
    return new Map(
      rows.map((row) => {
        const code = this.view(row, nowMs);
        return [row.sessionId, code ? { code } : {}];
      }),
    );
  }

  /** As `current`, for whoever shows it: undefined when there is none. */
  async currentView(sessionId: string): Promise<CodeView | 'cannot be shown' | undefined> {
    const { manager } = this.#records;
    const row = await this.current(manager, sessionId);
    return row ? (this.view(row, await databaseNowMs(manager)) ?? 'cannot be shown') : undefined;
  }

  /** The code a session shows now: the newest that has not expired or been withdrawn. */
  async current(tx: EntityManager, sessionId: string): Promise<CodeRow | null> {
    return tx
      .getRepository(CodeEntity)
      .createQueryBuilder('c')
      .where(`c."session_id" = :sessionId AND c.state <> 'withdrawn' AND c."expires_at" > clock_timestamp()`, {
        sessionId,
      })
      .orderBy('c."expires_at"', 'DESC')
      .getOne();
  }

  /**
   * Takes one seat with a code, and no other customer can take it again. A second number that was given has to be the
   * code's; which of the two is wrong nobody is told. Throws CODE_UNKNOWN, _EXPIRED, _USED, _WITHDRAWN.
   */
  async use(tx: EntityManager, digits: string, seat: CodeSeat, secondNumber?: string): Promise<CodeRow> {
    const lookups = this.#secrets.lookups(digits);
    // The newest with these digits: older ones with the same have expired long ago.
    const row = await tx
      .getRepository(CodeEntity)
      .createQueryBuilder('c')
      .setLock('pessimistic_write')
      .where('c.lookup IN (:...lookups)', { lookups })
      .orderBy('c."expires_at"', 'DESC')
      .limit(1)
      .getOne();
    const nowMs = await databaseNowMs(tx);
    if (!row || (secondNumber !== undefined && !isSame(secondNumber, this.#secrets.secondNumber(row.id))))
      throw new AppError('CODE_UNKNOWN');
    const state = stateOf(row);
    const decision = decideUseCode(state, seat, nowMs);
    if (isRefusal(decision)) throw new AppError(decision.refused);
    await this.#save(
      tx,
      row,
      decision.reduce((s: CodeState, e) => evolveCode(s, e) ?? s, state),
    );
    return row;
  }

  /** Sessions whose code nobody used for so long. */
  async stale(afterMs: number): Promise<string[]> {
    const rows = await this.#records
      .getRepository(CodeEntity)
      .createQueryBuilder('c')
      .where(
        `c.state = 'free' AND c."expires_at" > clock_timestamp() AND c."issued_at" <= clock_timestamp() - make_interval(secs => :seconds)`,
        { seconds: afterMs / 1000 },
      )
      .take(MAX_ROTATED_AT_ONCE)
      .getMany();
    return rows.map((row) => row.sessionId);
  }

  /** The customer has accepted: both seats of every code of this session are taken. */
  async close(tx: EntityManager, sessionId: string): Promise<void> {
    for (const row of await tx.getRepository(CodeEntity).findBy({ sessionId })) {
      const state = stateOf(row);
      await this.#save(
        tx,
        row,
        decideCloseCode(state).reduce((s: CodeState, e) => evolveCode(s, e) ?? s, state),
      );
    }
  }

  async withdraw(tx: EntityManager, row: CodeRow): Promise<void> {
    const state = stateOf(row);
    await this.#save(
      tx,
      row,
      decideWithdrawCode(state).reduce((s: CodeState, e) => evolveCode(s, e) ?? s, state),
    );
  }

  async #save(tx: EntityManager, row: CodeRow, state: CodeState): Promise<void> {
    await tx
      .getRepository(CodeEntity)
      .update({ id: row.id }, { state: state.name, seats: state.name === 'used' ? [...state.seats] : row.seats });
  }
}
