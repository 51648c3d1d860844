import { randomBytes } from 'node:crypto';
import {
  appendRow,
  decideSession,
  evolveSession,
  isOver,
  isRefusal,
  levelOf,
  minutesSpent,
  newSession,
  presentParticipants,
  refuse,
  replay,
  SALT_BYTES,
  ZERO_HASH,
  type DecideContext,
  type Decision,
  type Refusal,
  type SessionCommand,
  type SessionEvent,
} from '@porch/core';
import { AppError, readLedgerRow } from '@porch/wire';
import type { DataSource, EntityManager } from 'typeorm';
import type { Alongside } from '../../module/added.ts';
import type { Background } from '../../module/background.ts';
import type { Appended, OpenSession } from '../../module/open-session.ts';
import { databaseNowMs, inTransaction } from '../../db/data-source.ts';
import { CommandAnswerEntity, SessionEntity, type CommandAnswerRow, type SessionRow } from './session-tables.ts';
import { readAside } from './read-aside.ts';
import { appendEvents, insertRows, readRows } from './ledger-store.ts';

type Decide = (
  session: OpenSession,
  nowMs: number,
  tx: EntityManager,
) => Decision<SessionEvent> | Promise<Decision<SessionEvent>>;
type ContextFor = (session: OpenSession, nowMs: number) => DecideContext;
/** Sessions kept in memory; the oldest without listeners go first. What is dropped is read again from the records. */
const MAX_CACHED_SESSIONS = 500;
/** Of the entries that a session may have, so many may be asides. */
const ASIDES_PART = 10;
/** Facts have happened, and have room for as much again; then even they are too many to be true. */
const FACTS_FACTOR = 2;
/** Answers are kept so that what is sent again is not done again; of those that wrote nothing, no more than these. */
const MAX_KEPT_EMPTY_ANSWERS = 500;

export interface SessionBookParts {
  readonly records: DataSource;
  readonly background: Background;
  readonly contextFor: ContextFor;
  readonly alongside: Alongside;
  /** A session is an afternoon, not an archive; beyond so many it takes only what ends, takes back or is a fact. */
  readonly maxEntries: number;
  /** Events that the records are not at yet are not written. */
  level(): number;
}

/**
 * The only writer of sessions. A command is decided against what the records hold, under the session's row lock, and
 * its events are told to others only when they are committed.
 */
export class SessionBook {
  readonly #parts: SessionBookParts;
  readonly #sessions = new Map<string, OpenSession>();
  readonly #turns = new Map<string, Promise<unknown>>();
  readonly #watchers = new Set<(appended: Appended) => void>();
  readonly #asideWatchers = new Set<(session: OpenSession) => void>();

  constructor(parts: SessionBookParts) {
    this.#parts = parts;
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
  async prepare(id: string, make: (tx: EntityManager, nowMs: number) => Promise<SessionEvent[]>): Promise<OpenSession> {
    const appended = await inTransaction(this.#parts.records, async (tx): Promise<Appended> => {
      const made = await this.#read(tx, id);
      if (made) return { session: made, rows: [], events: [] };
      const nowMs = await databaseNowMs(tx);
      const at = new Date(nowMs);
      await tx.getRepository(SessionEntity).insert({
        id,
        seq: 0,
        head: Buffer.from(ZERO_HASH),
        asideSeq: 0,
        asideHead: Buffer.from(ZERO_HASH),
        phase: 'prepared',
        ticketRef: null,
        technicianId: '',
        technicianName: '',
        purpose: '',
        customerName: null,
        behind: 'nothing',
        deviceId: null,
        hasGrants: false,
        outcome: null,
        minutes: 0,
        handoverTo: null,
        present: 0,
        preparedAt: at,
        changedAt: at,
      });
      const session: OpenSession = { id, state: newSession, entries: [], rows: [], asides: [], asideRows: [] };
      return this.#append(tx, session, { seq: 0, hash: ZERO_HASH }, await make(tx, nowMs), nowMs);
    });
    return this.#publish(appended);
  }

  async open(id: string): Promise<OpenSession> {
    const known = this.#sessions.get(id);
    if (known) return known;
    const session = await inTransaction(this.#parts.records, (tx) => this.#read(tx, id));
    if (!session) throw new AppError('SESSION_NOT_FOUND');
    // Whoever wrote meanwhile has left something newer.
    const newer = this.#sessions.get(id);
    if (newer) return newer;
    this.#remember(session);
    return session;
  }

  /** A participant's command, once and only once: a repeat gets the first answer. */
  async command(id: string, by: string, commandId: string, command: SessionCommand): Promise<void> {
    await this.#change(
      id,
      (session, nowMs) =>
        isFull(session, command, this.#parts.maxEntries)
          ? refuse('SESSION_TOO_LONG')
          : decideSession(session.state, command, by, this.#parts.contextFor(session, nowMs)),
      { sender: by, commandId },
    );
  }

  /** What the service itself does to a session. `decide` sees the newest state, under the lock. */
  async act(id: string, decide: Decide): Promise<OpenSession> {
    return this.#change(id, decide);
  }

  /** Once and only once, like a command. */
  async aside(
    id: string,
    by: string,
    commandId: string,
    aside: { technicianId: string; name: string; text: string },
  ): Promise<void> {
    await this.#inTurn(id, async () => {
      await inTransaction(this.#parts.records, async (tx) => {
        const row = await this.#lock(tx, id);
        if (await this.#answerTo(tx, id, commandId)) return;
        if (row.asideSeq >= this.#parts.maxEntries / ASIDES_PART) throw new AppError('SESSION_TOO_LONG');
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
        const ledgerRow = appendRow(
          row.asideHead,
          seq,
          header,
          { name: aside.name, text: aside.text },
          randomBytes(SALT_BYTES),
        );
        await insertRows(tx, id, 'aside', [ledgerRow]);
        await tx.getRepository(CommandAnswerEntity).insert({ sessionId: id, sender: by, commandId, refused: null });
        await tx.getRepository(SessionEntity).update({ id }, { asideSeq: seq, asideHead: Buffer.from(ledgerRow.hash) });
      });
      // Read back, so that what an earlier try wrote, whose answer was lost, is told as well.
      const session = await this.open(id);
      const asideRows = await readRows(this.#parts.records.manager, id, 'aside', session.asideRows.length);
      session.asideRows = [...session.asideRows, ...asideRows];
      session.asides = [...session.asides, ...asideRows.map(readAside)];
      this.#tell(this.#asideWatchers, session);
    });
  }

  /** Forgets what is in memory: the records were changed behind our back, by erasing for one. */
  forget(id: string): void {
    this.#sessions.delete(id);
  }

  async #change(id: string, decide: Decide, answer?: { sender: string; commandId: string }): Promise<OpenSession> {
    return this.#inTurn(id, async () => {
      const outcome = await inTransaction(this.#parts.records, async (tx): Promise<Appended | Refusal> => {
        const row = await this.#lock(tx, id);
        let session = this.#sessions.get(id);
        // Another process wrote, or our own commit's answer was lost: the records are right.
        if (!session || session.rows.length !== row.seq) session = await this.#read(tx, id);
        if (!session) throw new AppError('SESSION_NOT_FOUND');
        const given = answer && (await this.#answerTo(tx, id, answer.commandId));
        if (given?.refused) return { refused: given.refused as Refusal['refused'] };
        if (given) return { session, rows: [], events: [] };
        const nowMs = await databaseNowMs(tx);
        const decision = this.#unlessTooNew(await decide(session, nowMs, tx));
        if (answer && (writesSomething(decision) || (await this.#hasRoomForEmptyAnswer(tx, session))))
          await tx.getRepository(CommandAnswerEntity).insert({
            sessionId: id,
            ...answer,
            refused: isRefusal(decision) ? decision.refused : null,
          });
        if (isRefusal(decision)) return decision;
        return this.#append(tx, session, { seq: row.seq, hash: row.head }, decision, nowMs);
      });
      if (isRefusalOrAppended(outcome)) throw new AppError(outcome.refused);
      return this.#publish(outcome);
    });
  }

  /** A release that is still expected to read these records does not know them. */
  #unlessTooNew(decision: Decision<SessionEvent>): Decision<SessionEvent> {
    const isTooNew = !isRefusal(decision) && decision.some(({ type }) => levelOf(type) > this.#parts.level());
    return isTooNew ? refuse('UPGRADE_UNFINISHED') : decision;
  }

  /** By the sender's id alone: a program that started again is another participant, and sends the same again. */
  #answerTo(tx: EntityManager, sessionId: string, commandId: string): Promise<CommandAnswerRow | null> {
    return tx.getRepository(CommandAnswerEntity).findOneBy({ sessionId, commandId });
  }

  /** One that wrote nothing may be decided again: whoever asks for it without end fills no table. */
  async #hasRoomForEmptyAnswer(tx: EntityManager, { id, rows }: OpenSession): Promise<boolean> {
    const kept = await tx.getRepository(CommandAnswerEntity).countBy({ sessionId: id });
    return kept < rows.length + MAX_KEPT_EMPTY_ANSWERS;
  }

  async #lock(tx: EntityManager, id: string): Promise<SessionRow> {
    const row = await tx
      .getRepository(SessionEntity)
      .createQueryBuilder('s')
      .setLock('pessimistic_write')
      .where('s.id = :id', { id })
      .getOne();
    if (!row) throw new AppError('SESSION_NOT_FOUND');
    return row;
  }

  async #read(tx: EntityManager, id: string): Promise<OpenSession | undefined> {
    if (!(await tx.getRepository(SessionEntity).existsBy({ id }))) return undefined;
    const rows = await readRows(tx, id, 'session');
    const asideRows = await readRows(tx, id, 'aside');
    const entries = rows.map(readLedgerRow);
    const state = replay(entries);
    // Written by a later release: whoever cannot read it all decides nothing about it.
    if (state.notUnderstood.length) throw new AppError('PROTOCOL_VERSION', { events: state.notUnderstood });
    return { id, rows, entries, state, asideRows, asides: asideRows.map(readAside) };
  }

  /** Events, the session's summary and whatever commits alongside: all or nothing. The state in memory waits. */
  async #append(
    tx: EntityManager,
    session: OpenSession,
    head: { seq: number; hash: Uint8Array },
    events: readonly SessionEvent[],
    nowMs: number,
  ): Promise<Appended> {
    if (!events.length) return { session, rows: [], events };
    const rows = await appendEvents(tx, session.id, head, events, nowMs);
    const entries = [...session.entries, ...rows.map(readLedgerRow)];
    const state = events.reduce((s, event) => evolveSession(s, event, nowMs), session.state);
    const next: OpenSession = { ...session, entries, rows: [...session.rows, ...rows], state };
    const last = rows.at(-1);
    await tx.getRepository(SessionEntity).update(
      { id: session.id },
      {
        seq: head.seq + rows.length,
        head: Buffer.from(last?.hash ?? head.hash),
        phase: state.phase.name,
        ticketRef: state.ticketRef ?? null,
        technicianId: state.technicianId ?? '',
        technicianName: state.technicianName ?? '',
        purpose: state.purpose ?? '',
        customerName: state.customerName ?? null,
        behind: state.behind,
        deviceId: state.deviceId ?? null,
        hasGrants: state.lastGrantNumber > 0,
        outcome: state.phase.name === 'logged' ? state.phase.outcome : null,
        minutes: minutesSpent(entries, nowMs),
        handoverTo: state.handover?.stage === 'offered' ? state.handover.toTechnicianId : null,
        present: presentParticipants(state).length,
        changedAt: new Date(nowMs),
      },
    );
    await this.#parts.alongside(tx, next, events, nowMs);
    return { session: next, rows, events };
  }

  /**
   * Commits have happened: now memory may change and others may be told, of all that they were not told yet. That is more
   * than was just written when an earlier commit's answer was lost.
   */
  #publish(appended: Appended): OpenSession {
    const known = this.#sessions.get(appended.session.id);
    // Somebody read a newer state meanwhile: what is older must not take its place.
    if (known && known.rows.length > appended.session.rows.length) return known;
    const toldRows = known?.rows.length ?? appended.session.rows.length - appended.rows.length;
    const session = known
      ? Object.assign(known, appended.session, { asides: known.asides, asideRows: known.asideRows })
      : appended.session;
    this.#remember(session);
    const rows = session.rows.slice(toldRows);
    const events = session.entries.slice(toldRows).map((entry) => entry.event);
    if (rows.length) this.#tell(this.#watchers, { session, rows, events });
    return session;
  }

  /** What is written is written: whoever cannot take the news keeps it from nobody else, and undoes nothing. */
  #tell<T>(watchers: ReadonlySet<(news: T) => void>, news: T): void {
    for (const watcher of watchers) this.#parts.background.run('telling of a new entry', () => watcher(news));
  }

  #remember(session: OpenSession): void {
    this.#sessions.delete(session.id);
    this.#sessions.set(session.id, session);
    if (this.#sessions.size <= MAX_CACHED_SESSIONS) return;
    const [oldest] = this.#sessions.keys();
    if (oldest !== undefined) this.#sessions.delete(oldest);
  }

  /** One change of a session at a time within this process, so that they do not queue on the database's lock. */
  #inTurn<T>(id: string, work: () => Promise<T>): Promise<T> {
    const before = this.#turns.get(id) ?? Promise.resolve();
    const mine = before.then(work, work);
    const settled = mine.then(
      () => undefined,
      () => undefined,
    );
    this.#turns.set(id, settled);
    this.#parts.background.run('ending a turn', () =>
      settled.then(() => {
        if (this.#turns.get(id) === settled) this.#turns.delete(id);
      }),
    );
    return mine;
  }
}

/** Endings and outcomes have room whenever they come, facts for long. */
function isFull({ entries, state }: OpenSession, command: SessionCommand, maxEntries: number): boolean {
  const isEnding = command.type === 'logOutcome' || (command.type === 'endSession' && !isOver(state));
  if (entries.length < maxEntries || isEnding) return false;
  const isLate = ('fact' in command && command.fact !== undefined) || lateCommands.has(command.type);
  return !isLate || entries.length >= FACTS_FACTOR * maxEntries;
}
const lateCommands: ReadonlySet<SessionCommand['type']> = new Set(['leaveSession', 'withdrawPermission', 'refuseAsk']);

const writesSomething = (decision: Decision<SessionEvent>): boolean => !isRefusal(decision) && decision.length > 0;

const isRefusalOrAppended = (outcome: Appended | Refusal): outcome is Refusal => 'refused' in outcome;
