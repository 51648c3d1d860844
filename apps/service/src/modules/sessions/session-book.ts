import { randomBytes } from 'node:crypto';
import {
  appendRow,
  decideSession,
  isOver,
  isRefusal,
  levelOf,
  newSession,
  refuse,
  SALT_BYTES,
  ZERO_HASH,
  type DecideContext,
  type Decision,
  type LedgerEntry,
  type Refusal,
  type SessionCommand,
  type SessionEvent,
} from '@porch/core';
import { AppError } from '@porch/wire';
import type { DataSource, EntityManager } from 'typeorm';
import type { Background } from '../../module/background.ts';
import type { Appended, OpenSession, SessionMoment } from '../../module/open-session.ts';
import { Turns } from '../../module/turns.ts';
import { databaseNowMs, inTransaction } from '../../db/data-source.ts';
import { answerTo, hasRoomForEmptyAnswer, keepAnswer } from './command-answers.ts';
import { readAside } from './read-aside.ts';
import { insertRows, readRows } from './ledger-store.ts';
import { SessionCache } from './session-cache.ts';
import { lockSession, readEntries, readMoment, readWhole } from './session-store.ts';
import { summaryOf } from './session-summary.ts';
import { SessionEntity, type SessionRow } from './session-tables.ts';
import { isWhole, type SessionWriter, type Written } from './session-writer.ts';

type Decide = (
  session: SessionMoment,
  nowMs: number,
  tx: EntityManager,
) => Decision<SessionEvent> | Promise<Decision<SessionEvent>>;
type ContextFor = (session: OpenSession, nowMs: number) => DecideContext;

/** Of the entries that a session may have, so many may be asides. */
const ASIDES_PART = 10;
/** Facts have happened, and have room for as much again; then even they are too many to be true. */
const FACTS_FACTOR = 2;

export interface SessionBookParts {
  readonly records: DataSource;
  readonly background: Background;
  readonly contextFor: ContextFor;
  readonly writer: SessionWriter;
  /** Which program this is: what another one wrote down is not taken over. */
  readonly program: string;
  /** A session is an afternoon, not an archive; beyond so many it takes only what ends, takes back or is a fact. */
  maxEntries(): number;
  /** Events that the records are not at yet are not written. */
  level(): number;
}

/**
 * The only writer of sessions. A command is decided against what the records hold, under the session's row lock, and
 * its events are told to others only when they are committed.
 */
export class SessionBook {
  readonly #parts: SessionBookParts;
  readonly #cache = new SessionCache();
  readonly #turns: Turns;
  readonly #watchers = new Set<(appended: Appended) => void>();
  readonly #asideWatchers = new Set<(session: OpenSession) => void>();

  constructor(parts: SessionBookParts) {
    this.#parts = parts;
    this.#turns = new Turns(parts.background);
  }

  onAppended(watcher: (appended: Appended) => void): () => void {
    this.#watchers.add(watcher);
    return () => this.#watchers.delete(watcher);
  }

  onAside(watcher: (session: OpenSession) => void): () => void {
    this.#asideWatchers.add(watcher);
    return () => this.#asideWatchers.delete(watcher);
  }

  /**
   * A new session, prepared. `make` may write rows of its own in the same transaction. The id is the caller's: when the
   * answer of a commit was lost, the session that is there already is the one that was made.
   */
  async prepare(id: string, make: (tx: EntityManager, nowMs: number) => Promise<SessionEvent[]>): Promise<void> {
    await this.#turns.take(id, async () => {
      const written = await inTransaction(this.#parts.records, async (tx): Promise<Written<OpenSession>> => {
        const made = await readWhole(tx, id);
        if (made) return { session: made, rows: [], events: [] };
        const nowMs = await databaseNowMs(tx);
        const row: SessionRow = {
          id,
          seq: 0,
          head: Buffer.from(ZERO_HASH),
          asideSeq: 0,
          asideHead: Buffer.from(ZERO_HASH),
          ...summaryOf(newSession, nowMs),
          preparedAt: new Date(nowMs),
          projectedSeq: 0,
          behindIn: [],
        };
        await tx.getRepository(SessionEntity).insert(row);
        const session = { id, seq: 0, state: newSession, entries: [], rows: [], asides: [], asideRows: [] };
        return this.#parts.writer.append(tx, row, session, await make(tx, nowMs), nowMs);
      });
      this.#publish(written);
    });
  }

  /** All of a session. Throws SESSION_NOT_FOUND. */
  async open(id: string): Promise<OpenSession> {
    // In turn: what is read while somebody writes would be older than what is told meanwhile.
    return this.#cache.get(id) ?? this.#turns.take(id, () => this.#openNow(id));
  }

  /** All entries, as they stand in this transaction. */
  entries(tx: EntityManager, id: string): Promise<LedgerEntry[]> {
    return readEntries(tx, id);
  }

  /** Keeps a session in memory, whole, until what this hands back is called. */
  hold(id: string): () => void {
    return this.#cache.hold(id);
  }

  /** A participant's command, once and only once: a repeat gets the first answer. */
  async command(id: string, by: string, commandId: string, command: SessionCommand): Promise<void> {
    await this.#change(
      id,
      // Some commands tell of what happened before: their decisions need all of it.
      (tx, row) => this.#whole(tx, row),
      (session, nowMs) =>
        isFull(session, command, this.#parts.maxEntries())
          ? refuse('SESSION_TOO_LONG')
          : decideSession(session.state, command, by, this.#parts.contextFor(session, nowMs)),
      { sender: by, commandId },
    );
  }

  /** What the service itself does to a session. `decide` sees the newest state, under the lock. */
  async act(id: string, decide: Decide): Promise<SessionMoment> {
    return this.#change<SessionMoment>(
      id,
      (tx, row) => (this.#cache.get(id) ? this.#whole(tx, row) : readMoment(tx, id, this.#parts.program)),
      decide,
    );
  }

  /** Once and only once, like a command. */
  async aside(
    id: string,
    by: string,
    commandId: string,
    aside: { technicianId: string; name: string; text: string },
  ): Promise<void> {
    await this.#turns.take(id, async () => {
      await inTransaction(this.#parts.records, async (tx) => {
        const row = await lockSession(tx, id);
        if (await answerTo(tx, id, commandId)) return;
        if (row.asideSeq >= this.#parts.maxEntries() / ASIDES_PART) throw new AppError('SESSION_TOO_LONG');
        const nowMs = await databaseNowMs(tx);
        const seq = row.asideSeq + 1;
        const header = {
          v: 1,
          sessionId: id,
          seq,
          atMs: nowMs,
          type: 'asideWritten',
          by: `technician:${aside.technicianId}`,
        };
        const body = { name: aside.name, text: aside.text };
        const ledgerRow = appendRow(row.asideHead, seq, header, body, randomBytes(SALT_BYTES));
        await insertRows(tx, id, 'aside', [ledgerRow]);
        await keepAnswer(tx, id, { sender: by, commandId }, null);
        await tx.getRepository(SessionEntity).update({ id }, { asideSeq: seq, asideHead: Buffer.from(ledgerRow.hash) });
      });
      // Read back, so that what an earlier try wrote, whose answer was lost, is told as well.
      const known = await this.#openNow(id);
      const more = await readRows(this.#parts.records.manager, id, 'aside', known.asideRows.length);
      const session: OpenSession = {
        ...known,
        asideRows: [...known.asideRows, ...more],
        asides: [...known.asides, ...more.map(readAside)],
      };
      this.#cache.keep(session);
      this.#tell(this.#asideWatchers, session);
    });
  }

  /** Forgets what is in memory: the records were changed behind our back, by erasing for one. */
  forget(id: string): void {
    this.#cache.forget(id);
  }

  async #openNow(id: string): Promise<OpenSession> {
    const known = this.#cache.get(id);
    if (known) return known;
    const session = await inTransaction(this.#parts.records, (tx) => readWhole(tx, id));
    if (!session) throw new AppError('SESSION_NOT_FOUND');
    this.#cache.keep(session);
    return session;
  }

  /** Another process wrote, or our own commit's answer was lost: then the records are right. */
  async #whole(tx: EntityManager, { id, seq }: SessionRow): Promise<OpenSession> {
    const known = this.#cache.get(id);
    const session = known?.seq === seq ? known : await readWhole(tx, id);
    if (!session) throw new AppError('SESSION_NOT_FOUND');
    return session;
  }

  async #change<S extends SessionMoment>(
    id: string,
    read: (tx: EntityManager, row: SessionRow) => Promise<S>,
    decide: (session: S, nowMs: number, tx: EntityManager) => ReturnType<Decide>,
    answer?: { sender: string; commandId: string },
  ): Promise<SessionMoment> {
    return this.#turns.take(id, async () => {
      const outcome = await inTransaction(
        this.#parts.records,
        async (tx): Promise<Written<SessionMoment> | Refusal> => {
          const row = await lockSession(tx, id);
          const session = await read(tx, row);
          const given = answer && (await answerTo(tx, id, answer.commandId));
          if (given?.refused) return { refused: given.refused as Refusal['refused'] };
          if (given) return { session, rows: [], events: [] };
          const nowMs = await databaseNowMs(tx);
          const decision = this.#unlessTooNew(await decide(session, nowMs, tx));
          if (answer && (writesSomething(decision) || (await hasRoomForEmptyAnswer(tx, session))))
            await keepAnswer(tx, id, answer, isRefusal(decision) ? decision.refused : null);
          return isRefusal(decision) ? decision : this.#parts.writer.append(tx, row, session, decision, nowMs);
        },
      );
      if ('refused' in outcome) throw new AppError(outcome.refused);
      return this.#publish(outcome);
    });
  }

  /** A release that is still expected to read these records does not know them. */
  #unlessTooNew(decision: Decision<SessionEvent>): Decision<SessionEvent> {
    const isTooNew = !isRefusal(decision) && decision.some(({ type }) => levelOf(type) > this.#parts.level());
    return isTooNew ? refuse('UPGRADE_UNFINISHED') : decision;
  }

  /**
   * Commits have happened: now memory may change and others may be told, of all that they were not told yet. That is more
   * than was just written when an earlier commit's answer was lost.
   */
  #publish({ session, rows, events }: Written<SessionMoment>): SessionMoment {
    if (!isWhole(session)) {
      if (events.length) this.#tell(this.#watchers, { sessionId: session.id, session: undefined, events });
      return session;
    }
    const known = this.#cache.get(session.id);
    // Somebody knows something newer: what is older must not take its place.
    if (known && known.seq > session.seq) return known;
    const toldSeq = known?.seq ?? session.seq - rows.length;
    // What was said aside meanwhile is kept.
    const whole = known ? { ...session, asides: known.asides, asideRows: known.asideRows } : session;
    this.#cache.keep(whole);
    const told = whole.entries.slice(toldSeq).map(({ event }) => event);
    if (told.length) this.#tell(this.#watchers, { sessionId: whole.id, session: whole, events: told });
    return whole;
  }

  /** What is written is written: whoever cannot take the news keeps it from nobody else, and undoes nothing. */
  #tell<T>(watchers: ReadonlySet<(news: T) => void>, news: T): void {
    for (const watcher of watchers) this.#parts.background.run('telling of a new entry', () => watcher(news));
  }
}

/** Endings and outcomes have room whenever they come, facts for long. */
function isFull({ seq, state }: SessionMoment, command: SessionCommand, maxEntries: number): boolean {
  const isEnding = command.type === 'logOutcome' || (command.type === 'endSession' && !isOver(state));
  if (seq < maxEntries || isEnding) return false;
  const isLate = ('fact' in command && command.fact !== undefined) || lateCommands.has(command.type);
  return !isLate || seq >= FACTS_FACTOR * maxEntries;
}
const lateCommands: ReadonlySet<SessionCommand['type']> = new Set(['leaveSession', 'withdrawPermission', 'refuseAsk']);

const writesSomething = (decision: Decision<SessionEvent>): boolean => !isRefusal(decision) && decision.length > 0;
