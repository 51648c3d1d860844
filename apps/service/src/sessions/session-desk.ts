import { preparedEvents } from './prepared-events.ts';
import { ScreenshotEntity } from '../modules/screenshot/screenshot-entity.ts';
import { randomUUID } from 'node:crypto';
import {
  actionsText,
  chatText,
  closeHandover,
  draftBrief,
  isOver,
  mayAsk,
  mayDo,
  permissionLevel,
  refuse,
  replay,
  type DecideContext,
  type Language,
  type Policy,
  type SessionEvent,
  type Thing,
} from '@porch/core';
import { AppError, type CodeView, readGrant, type SessionView, type Started, type TicketView } from '@porch/wire';
import type { DataSource, EntityManager } from 'typeorm';
import { permit } from '../auth/permit.ts';
import type { Background } from '../background.ts';
import type { CodeDesk } from '../codes/code-desk.ts';
import { databaseNowMs } from '../db/data-source.ts';
import type { WrittenLevel } from '../db/records-level.ts';
import type { DoorPasses } from '../door/door-passes.ts';
import {
  CodeEntity,
  BookingEntity,
  CommandAnswerEntity,
  DeviceEntity,
  DoorPassEntity,
  InvitationEntity,
  OutboxEntity,
  QueueEntryEntity,
  QueueMessageEntity,
  SessionEntity,
  type CodeRow,
  type DeviceRow,
  type SessionRow,
  type TechnicianRow,
} from '../db/entities.ts';
import { InvitationDesk, invitationView, type InvitationDeskParts } from '../invitations/invitation-desk.ts';
import type { QueueDesk } from '../queue/queue-desk.ts';
import type { TechnicianStates } from '../queue/technician-states.ts';
import { outcomeText } from '../tickets/mail-ticket-system.ts';
import type { Outbox, Parcels } from '../tickets/outbox.ts';
import type { TicketSystem } from '../tickets/ticket-system.ts';
import type { TicketLists } from '../tickets/ticket-lists.ts';
import { SessionBook, type OpenSession } from './session-book.ts';

const MAX_LISTED_SESSIONS = 100;
/** Sessions looked at in one round, of those that nobody is in. */
const MAX_ABANDONED_AT_ONCE = 50;
/** On a shared computer the receipt can be read and kept for so long after the end. */
const SHARED_RECEIPT_MS = 10 * 60_000;

export interface SessionDeskParts {
  readonly records: DataSource;
  readonly background: Background;
  readonly passes: DoorPasses;
  readonly codes: CodeDesk;
  readonly tickets: TicketLists;
  readonly outbox: Outbox;
  readonly policy: Policy;
  readonly level: Pick<WrittenLevel, 'current'>;
  readonly queue: QueueDesk;
  readonly states: TechnicianStates;
  /** What else this process knows of an erased session goes, too. */
  onErased(sessionId: string): void;
  readonly technicians: ReadonlyMap<string, TechnicianRow>;
  readonly invitations: Pick<
    InvitationDeskParts,
    'secrets' | 'gateway' | 'ticketSystem' | 'templates' | 'onChanged' | 'publicUrl'
  >;
}

/** What technicians do with sessions as a whole: start, list, hand over, read back, erase. */
export class SessionDesk {
  readonly #parts: SessionDeskParts;
  readonly book: SessionBook;
  readonly invitations: InvitationDesk;

  constructor(parts: SessionDeskParts) {
    this.#parts = parts;
    this.book = new SessionBook(
      parts.records,
      parts.background,
      this.#contextFor,
      this.#alongside,
      parts.policy.maxEntries,
      () => parts.level.current,
    );
    const { records, outbox, policy, passes } = parts;
    this.invitations = new InvitationDesk({ ...parts.invitations, records, outbox, policy, passes, book: this.book });
  }

  /**
   * The same unused code again until somebody joins with it; otherwise a new session, under the id that the asker chose:
   * asked again with it, since no answer came, it is the same session.
   */
  async start(
    me: TechnicianRow,
    from: {
      ticketRef?: string | undefined;
      queueEntryId?: string | undefined;
      /** A device that the session is to take place at. */
      device?: DeviceRow | undefined;
      sessionId?: string | undefined;
    },
  ): Promise<Started> {
    const { records } = this.#parts;
    if (!from.ticketRef && !from.queueEntryId && !from.device) {
      const unused = await this.#unusedPlainSession(me);
      if (unused) return this.#started(me, unused, false);
    }
    const id = from.sessionId ?? randomUUID();
    const made = await records.getRepository(SessionEntity).findOneBy({ id });
    if (made) {
      if (made.technicianId !== me.id) throw new AppError('SESSION_NOT_FOUND');
      return this.#started(me, id, false);
    }
    const entryRow = from.queueEntryId
      ? await records.getRepository(QueueEntryEntity).findOneBy({ id: from.queueEntryId })
      : null;
    if (from.queueEntryId && !entryRow) throw new AppError('ENTRY_NOT_FOUND');
    if (entryRow) permit(me, 'take somebody waiting', { offeredTo: entryRow.offeredTo ?? undefined });
    const ref = from.ticketRef ?? entryRow?.ticketRef ?? undefined;
    const ticket = ref ? await this.#readTicket(ref, entryRow !== null) : undefined;
    await this.book.prepare(id, async (tx, nowMs) => {
      const taken = from.queueEntryId
        ? await this.#parts.queue.take(tx, from.queueEntryId, me.id, id, nowMs)
        : undefined;
      const prepared = preparedEvents(me, ticket, ref, taken?.row ?? null, taken?.saidBefore ?? [], from.device);
      const code = await this.#parts.codes.issue(tx, id, me.id, nowMs);
      const link = await this.invitations.issue(tx, id, `technician:${me.id}`, { way: 'link' }, nowMs);
      return [...prepared, code.event, link.event];
    });
    return this.#started(me, id, true);
  }

  /** The session of a booking. `more` writes what belongs to it in the same transaction. */
  async prepareBooked(
    technician: TechnicianRow,
    about: {
      customerName: string;
      address: string;
      purpose: string;
      language: Language;
      ticketRef?: string | undefined;
    },
    more: (tx: EntityManager, sessionId: string, nowMs: number) => Promise<SessionEvent>,
  ): Promise<void> {
    const id = randomUUID();
    const ticket = about.ticketRef ? await this.#readTicket(about.ticketRef, false) : undefined;
    await this.book.prepare(id, async (tx, nowMs) => [
      {
        type: 'sessionPrepared',
        by: `technician:${technician.id}`,
        technicianId: technician.id,
        behind: ticket ? 'ticket' : 'nothing',
        language: about.language,
        ...(ticket ? { ticketRef: ticket.ref } : {}),
        personal: {
          technicianName: technician.name,
          purpose: about.purpose,
          ...(ticket?.asset ? { asset: ticket.asset } : {}),
        },
      },
      {
        type: 'customerExpected',
        by: `technician:${technician.id}`,
        personal: { customerName: about.customerName, customerAddress: about.address },
      },
      await more(tx, id, nowMs),
    ]);
  }

  async newCode(me: TechnicianRow, id: string): Promise<{ row: CodeRow; nowMs: number }> {
    let made: { row: CodeRow; nowMs: number } | undefined;
    await this.#actAsLead(me, id, async (session, nowMs, tx) => {
      if (isOver(session.state)) return refuse('SESSION_ENDED');
      const withdrawn = await this.#withdrawCodes(tx, me, id);
      const { row, event } = await this.#parts.codes.issue(tx, id, me.id, nowMs);
      made = { row, nowMs };
      return [...withdrawn, event];
    });
    if (!made) throw new AppError('INTERNAL');
    return made;
  }

  /** New digits for codes that stood too long; they end when the old ones would have. */
  async rotateCodes(): Promise<void> {
    const { records, codes, policy } = this.#parts;
    for (const id of await codes.stale(records, policy.codeRotateMs))
      await this.book.act(id, async ({ state }, nowMs, tx) => {
        const old = await codes.current(tx, id);
        if (isOver(state) || old?.state !== 'free' || nowMs - old.issuedAt.getTime() < policy.codeRotateMs) return [];
        await codes.withdraw(tx, old);
        const { event } = await codes.issue(tx, id, old.technicianId, nowMs, old.expiresAt);
        return [{ type: 'codeWithdrawn', by: 'service', codeId: old.id }, event];
      });
  }

  async withdrawCode(me: TechnicianRow, id: string): Promise<void> {
    await this.#actAsLead(me, id, (_session, _nowMs, tx) => this.#withdrawCodes(tx, me, id));
  }

  /** The session as its technicians may see it. Throws SESSION_NOT_FOUND for those who have nothing to do with it. */
  async read(
    me: TechnicianRow,
    id: string,
    action: 'read a session' | 'join a session' = 'read a session',
  ): Promise<OpenSession> {
    const session = await this.book.open(id);
    if (!mayDo(me, action, this.#thingFor(me, session))) throw new AppError('SESSION_NOT_FOUND');
    return session;
  }

  #teamOf(technicianId: string | undefined): string | undefined {
    return this.#parts.technicians.get(technicianId ?? '')?.team;
  }
  #thingFor(me: TechnicianRow, { state }: OpenSession): Thing {
    return {
      ownerId: state.technicianId,
      ownerTeam: this.#teamOf(state.technicianId),
      wasIn: Object.values(state.participants).some((p) => p.technicianId === me.id),
      offeredTo: state.handover?.toTechnicianId,
      isAccepted: state.handover?.stage === 'accepted',
      isLetIn: Object.hasOwn(state.letIn, me.id),
    };
  }

  async list(me: TechnicianRow, words: string): Promise<SessionView[]> {
    const query = this.#parts.records
      .getRepository(SessionEntity)
      .createQueryBuilder('s')
      .orderBy('s.changed_at', 'DESC')
      .limit(MAX_LISTED_SESSIONS);
    // The table's "read a session", as a query: theirs, those they were in, and those that they lead.
    const led = [...this.#parts.technicians.values()]
      .filter((t) => mayDo(me, 'read a session', { ownerId: t.id, ownerTeam: t.team }))
      .map((t) => t.id);
    query.andWhere(
      `(s."technician_id" = ANY(:led) OR EXISTS (SELECT 1 FROM "ledger_row" r WHERE r."session_id" = s.id AND r.chain = 'session' AND convert_from(r.header, 'UTF8')::jsonb->>'technicianId' = :me))`,
      { me: me.id, led: [me.id, ...led] },
    );
    if (words.trim())
      query.andWhere(
        `concat_ws(' ', s."ticket_ref", s."customer_name", s."technician_name", s.purpose, s.outcome, s.phase) ILIKE :words`,
        { words: `%${words.trim().replace(/[%_\\]/g, '\\$&')}%` },
      );
    return this.#views(await query.getMany());
  }

  /** What stands on the porch for this technician: prepared and under way, newest first. */
  async openOf(me: TechnicianRow): Promise<SessionView[]> {
    const rows = await this.#parts.records
      .getRepository(SessionEntity)
      .createQueryBuilder('s')
      .where(
        `s."technician_id" = :me AND s.phase <> 'logged' AND s."changed_at" > clock_timestamp() - interval '2 days'
         AND NOT (s.phase = 'ended' AND EXISTS (SELECT 1 FROM "booking" b WHERE b."session_id" = s.id AND b."is_cancelled"))`,
        { me: me.id },
      )
      .orderBy('s.prepared_at', 'DESC')
      .limit(MAX_LISTED_SESSIONS)
      .getMany();
    return this.#views(rows);
  }

  async view(id: string): Promise<SessionView> {
    const row = await this.#parts.records.getRepository(SessionEntity).findOneBy({ id });
    if (!row) throw new AppError('SESSION_NOT_FOUND');
    const [view] = await this.#views([row]);
    if (!view) throw new AppError('SESSION_NOT_FOUND');
    return view;
  }

  async handoversFor(me: TechnicianRow): Promise<OpenSession[]> {
    const rows = await this.#parts.records.getRepository(SessionEntity).findBy({ handoverTo: me.id });
    return Promise.all(rows.map((row) => this.book.open(row.id)));
  }

  /** Answers the session of a handover that is offered to this technician. */
  async answerHandover(me: TechnicianRow, handoverId: string, answer: 'accept' | 'decline'): Promise<string> {
    const offered = (await this.handoversFor(me)).find((s) => s.state.handover?.id === handoverId);
    if (!offered) throw new AppError('HANDOVER_NOT_FOUND');
    await this.book.act(offered.id, ({ state }, nowMs) => {
      // Answered already, and the answer was lost on its way: it is the same answer.
      if (answer === 'accept' && state.handover?.id === handoverId && state.handover.stage === 'accepted') return [];
      const isOpen =
        state.handover?.id === handoverId && state.handover.stage === 'offered' && nowMs < state.handover.answerByMs;
      if (!isOpen) return refuse('HANDOVER_NOT_OPEN');
      const by = `technician:${me.id}`;
      return answer === 'accept'
        ? [{ type: 'handoverAccepted', by, handoverId }]
        : closeHandover(state, by, 'declined');
    });
    return offered.id;
  }

  /**
   * Deletes what is personal of a session, words and names alike, in every table; the chain goes on to verify. A lead's
   * right. Done again it finds nothing, and says so with 0.
   */
  async erase(me: TechnicianRow, id: string, rule: string): Promise<number> {
    const opened = await this.book.open(id);
    permit(me, 'erase a session', this.#thingFor(me, opened));
    let erased = 0;
    await this.book.act(id, async (session, _nowMs, tx) => {
      if (!isOver(session.state)) return refuse('SESSION_NOT_ENDED');
      const seqs = session.entries.filter((e) => 'personal' in e.event && e.event.personal).map((e) => e.seq);
      erased = seqs.length;
      await tx.query(
        `UPDATE "ledger_row" SET "salt" = NULL, "body" = NULL WHERE "session_id" = $1 AND ("chain" = 'aside' OR "seq" = ANY($2))`,
        [id, seqs],
      );
      // A parcel that has not left yet says only what the ledger said; what has left is the receiver's to erase.
      await tx.getRepository(OutboxEntity).delete({ sessionId: id });
      await tx.getRepository(DoorPassEntity).delete({ sessionId: id });
      await tx.getRepository(ScreenshotEntity).delete({ sessionId: id });
      await tx.getRepository(CommandAnswerEntity).delete({ sessionId: id });
      const nobody = { customerName: '', address: '', telephone: null, purpose: '', remark: '' };
      await tx.getRepository(BookingEntity).update({ sessionId: id }, nobody);
      await tx.getRepository(InvitationEntity).update({ sessionId: id }, { address: null, remark: null, why: null });
      const entries = await tx.getRepository(QueueEntryEntity).findBy({ sessionId: id });
      for (const entry of entries) await tx.getRepository(QueueMessageEntity).delete({ entryId: entry.id });
      await tx
        .getRepository(QueueEntryEntity)
        .update({ sessionId: id }, { name: '', address: '', description: '', callBack: null });
      // The consent stays what it is; whose it is, is forgotten here.
      await tx.getRepository(DeviceEntity).update({ madeInSession: id }, { customerName: '', customerAddress: '' });
      return seqs.length ? [{ type: 'personErased', by: `technician:${me.id}`, seqs, rule }] : [];
    });
    // What memory still knows must go too; read again, the session has no names and no words.
    this.book.forget(id);
    this.#parts.onErased(id);
    const { entries } = await this.book.open(id);
    const state = replay(entries);
    await this.#parts.records
      .getRepository(SessionEntity)
      .update({ id }, { customerName: null, purpose: state.purpose ?? '', technicianName: state.technicianName ?? '' });
    return erased;
  }

  /**
   * Sessions that nobody is in: their participants leave when the usual grace is over, and what no technician has been in
   * for long is ended. One by one, without keeping them in memory. `isHere` says what this process has open.
   */
  async endAbandoned(
    isHere: (sessionId: string) => boolean,
    hasTechnician: (sessionId: string) => boolean,
  ): Promise<void> {
    const { records, policy } = this.#parts;
    const rows = await records.query<{ id: string; is_old: boolean }[]>(
      `SELECT "id", "changed_at" < clock_timestamp() - make_interval(secs => $1) AS is_old FROM "session"
        WHERE "phase" IN ('joining', 'live') AND ("present" > 0 OR "changed_at" < clock_timestamp() - make_interval(secs => $1))
        ORDER BY "changed_at" LIMIT $2`,
      [policy.abandonedAfterMs / 1000, MAX_ABANDONED_AT_ONCE],
    );
    for (const { id, is_old: isOld } of rows) {
      if (hasTechnician(id) || (isHere(id) && !isOld)) continue;
      await this.book.act(id, ({ state }) => {
        if (isOver(state) || hasTechnician(id)) return [];
        if (isOld) return [{ type: 'sessionEnded', by: 'service', reason: 'nobody', why: 'no technician was there' }];
        if (isHere(id)) return [];
        return Object.values(state.participants)
          .filter((p) => !p.isGone)
          .map((p) => ({ type: 'participantLeft', by: 'service', participantId: p.id, reason: 'the line was lost' }));
      });
      if (!isHere(id)) this.book.forget(id);
    }
  }

  codeView(row: CodeRow, nowMs: number): CodeView {
    const view = this.#parts.codes.view(row, nowMs);
    if (!view) throw new AppError('CODE_EXPIRED');
    return view;
  }

  async #actAsLead(me: TechnicianRow, id: string, decide: Parameters<SessionBook['act']>[1]): Promise<void> {
    await this.book.act(id, (session, nowMs, tx) => {
      if (session.state.technicianId !== me.id) throw new AppError('NOT_THE_LEAD');
      return decide(session, nowMs, tx);
    });
  }

  async #withdrawCodes(tx: EntityManager, me: TechnicianRow, sessionId: string): Promise<SessionEvent[]> {
    const current = await this.#parts.codes.current(tx, sessionId);
    if (!current) return [];
    await this.#parts.codes.withdraw(tx, current);
    return [{ type: 'codeWithdrawn', by: `technician:${me.id}`, codeId: current.id }];
  }

  async #readTicket(ref: string, isOptional: boolean): Promise<TicketView | undefined> {
    try {
      return await this.#parts.tickets.read(ref);
    } catch (error) {
      // A customer may have mistyped the ticket on the request page; that must not keep them waiting.
      if (isOptional && error instanceof AppError) return undefined;
      throw error;
    }
  }

  async #unusedPlainSession(me: TechnicianRow): Promise<string | undefined> {
    const row = await this.#parts.records
      .getRepository(CodeEntity)
      .createQueryBuilder('c')
      .innerJoin('session', 's', 's.id = c."session_id"')
      .where(
        `c."technician_id" = :me AND c.state = 'free' AND c."expires_at" > clock_timestamp() AND s.phase = 'prepared' AND s.behind = 'nothing' AND s."ticket_ref" IS NULL`,
        { me: me.id },
      )
      .getOne();
    return row?.sessionId;
  }

  async #started(me: TechnicianRow, id: string, isNew: boolean): Promise<Started> {
    let code = await this.#parts.codes.current(this.#parts.records.manager, id);
    // One that is kept with a secret that is lost is as good as none.
    if (code && !isNew && !this.#parts.codes.view(code, 0)) code = (await this.newCode(me, id)).row;
    const link = (await this.invitations.ofSessions([id])).find(
      (i) => i.way === 'link' && i.delivery !== 'withdrawn' && this.invitations.canShow(i),
    );
    if (!code) throw new AppError('CODE_EXPIRED');
    return {
      session: await this.view(id),
      code: this.codeView(code, await databaseNowMs(this.#parts.records.manager)),
      link: link ? this.invitations.linkOf(link) : '',
      isNew,
    };
  }

  async #views(rows: readonly SessionRow[]): Promise<SessionView[]> {
    if (!rows.length) return [];
    const { records, codes } = this.#parts;
    const ids = rows.map((r) => r.id);
    const open = await records
      .getRepository(CodeEntity)
      .createQueryBuilder('c')
      .where(`c."session_id" IN (:...ids) AND c.state = 'free' AND c."expires_at" > clock_timestamp()`, { ids })
      .getMany();
    const invitations = await this.invitations.ofSessions(ids);
    const undelivered = await records.query<{ id: string; n: string }[]>(
      `SELECT "session_id" AS id, count(*) AS n FROM "outbox" WHERE "kind" = 'outcome' AND "delivered_at" IS NULL AND "given_up_at" IS NULL AND "session_id" = ANY($1) GROUP BY 1`,
      [ids],
    );
    return rows.map((row) => {
      const codeRow = open.find((c) => c.sessionId === row.id);
      const code = codeRow && codes.view(codeRow, Date.now());
      return {
        id: row.id,
        phase: row.phase,
        ...(row.ticketRef ? { ticketRef: row.ticketRef } : {}),
        purpose: row.purpose,
        ...(row.customerName ? { customerName: row.customerName } : {}),
        technicianId: row.technicianId,
        technicianName: row.technicianName,
        behind: row.behind,
        ...(row.deviceId ? { deviceId: row.deviceId } : {}),
        ...(row.outcome ? { outcome: row.outcome as NonNullable<SessionView['outcome']> } : {}),
        minutes: row.minutes,
        preparedAtMs: row.preparedAt.getTime(),
        changedAtMs: row.changedAt.getTime(),
        lastSeq: row.seq,
        ...(code ? { code } : {}),
        invitations: invitations.filter((i) => i.sessionId === row.id).map(invitationView),
        undelivered: Number(undelivered.find((u) => u.id === row.id)?.n ?? 0),
      };
    });
  }

  #contextFor = (session: OpenSession, nowMs: number): DecideContext => ({
    sessionId: session.id,
    nowMs,
    policy: this.#parts.policy,
    mayAsk: (technicianId, permission) => {
      const technician = technicianId === undefined ? undefined : this.#parts.technicians.get(technicianId);
      return technician !== undefined && mayAsk(this.#parts.policy.askLimits, technician, permission);
    },
    readGrant,
    isWritten: (permission) => permissionLevel(permission) <= this.#parts.level.current,
    nameOf: (technicianId) => this.#parts.technicians.get(technicianId)?.name,
    brief: (remark) => draftBrief(session.entries, remark, this.#parts.policy.timeZone),
  });

  /** For the outbox: makes the ticket, ties the session to it, and tells it the outcome. Safe to repeat. */
  async makeTicket(system: TicketSystem, { sessionId, outcome }: Parcels['newTicket']): Promise<void> {
    const { state } = await this.book.open(sessionId);
    const technician = this.#parts.technicians.get(state.technicianId ?? '');
    const ref =
      state.ticketRef ??
      (await system.create(
        {
          title: state.purpose ?? 'Support session',
          requester: { name: state.customerName ?? '', address: state.customerAddress ?? '' },
          technician: technician?.email ?? '',
          description: outcome ? outcomeText(outcome) : `Support session ${sessionId}`,
        },
        `session-${sessionId}`,
      ));
    if (!ref) return;
    await this.book.act(sessionId, ({ state: now }) =>
      now.ticketRef ? [] : [{ type: 'ticketAttached', by: 'service', ticketRef: ref }],
    );
    if (outcome) await system.logOutcome(ref, outcome, `outcome-${sessionId}`);
  }

  /** The ticket learns the outcome in the same transaction in which it is logged: into the outbox, never lost. */
  #alongside = async (
    tx: EntityManager,
    session: OpenSession,
    events: readonly SessionEvent[],
    nowMs: number,
  ): Promise<void> => {
    for (const event of events) {
      // Their seats are taken: who overheard a code, or has a link that was passed on, comes too late.
      if (event.type === 'customerAccepted') {
        await this.#parts.codes.close(tx, session.id);
        await this.#parts.passes.close(tx, session.id);
      }
      if (event.type === 'sessionEnded') {
        await this.#parts.codes.close(tx, session.id);
        await this.#parts.passes.endSession(tx, session.id);
      }
      if (event.type === 'sessionEnded' && session.state.technicianId)
        await this.#parts.states.wrapUp(tx, session.state.technicianId, nowMs);
      // On a computer that others use nothing leads back into the session; the receipt stays for a moment.
      if (event.type === 'sessionEnded' && ['shared', 'others'].includes(session.state.computer ?? ''))
        await tx
          .getRepository(DoorPassEntity)
          .update({ sessionId: session.id }, { expiresAt: new Date(nowMs + SHARED_RECEIPT_MS) });
      const { ticketRef } = session.state;
      const { ticketIfNone } = this.#parts.policy;
      if (event.type === 'customerAccepted' && !ticketRef && ticketIfNone === 'at-start')
        await this.#parts.outbox.put(tx, session.id, 'newTicket', { sessionId: session.id }, nowMs);
      if (event.type !== 'outcomeLogged') continue;
      const outcome = {
        outcome: event.outcome,
        note: event.personal?.note ?? '',
        minutes: event.minutes,
        chat: chatText(session.entries, this.#parts.policy.timeZone),
        actions: actionsText(session.entries, this.#parts.policy.timeZone),
        sessionId: session.id,
        ledgerHead: `${session.entries.length}:${session.entries.at(-1)?.hash ?? ''}`,
      };
      if (ticketRef) await this.#parts.outbox.put(tx, session.id, 'outcome', { ref: ticketRef, outcome }, nowMs);
      else if (ticketIfNone !== 'never')
        await this.#parts.outbox.put(tx, session.id, 'newTicket', { sessionId: session.id, outcome }, nowMs);
    }
  };
}
