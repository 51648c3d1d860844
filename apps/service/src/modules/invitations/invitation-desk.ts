import type { PolicyOf } from '../sessions/policy-of.ts';
import { randomUUID } from 'node:crypto';
import {
  carriedWays,
  decideUseInvitation,
  evolveDelivery,
  isOver,
  isRefusal,
  isTelephone,
  MAX_INVITATIONS,
  refuse,
  type Delivery,
  type DeliveryEvent,
  type InvitationWay,
  type SessionEvent,
  type SessionState,
} from '@porch/core';
import { AppError, type InvitationView, type InviteBody, type Invited } from '@porch/wire';
import { In, type DataSource, type EntityManager } from 'typeorm';
import type { DoorPasses } from '../passes/door-passes.ts';
import { makeToken, type CodeSecrets } from '../../auth/tokens.ts';
import { databaseNowMs, inTransaction } from '../../db/data-source.ts';
import { lockRow } from '../../db/lock-row.ts';
import { InvitationEntity, type InvitationRow } from './invitation-table.ts';
import type { Technician } from '../people/technician.ts';
import { isMailAddress, type DeliveryReport, type MessageGateway } from '../messages/message-gateway.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import type { Outbox } from '../outbox/outbox.ts';

/** What the ledger says about a customer who came in by this way. */
const passWays: Readonly<Record<InvitationWay, string>> = {
  link: 'link',
  'ticket-comment': 'ticket-link',
  mail: 'mail-link',
  'text-message': 'text-link',
  qr: 'qr-link',
  calendar: 'calendar-link',
  'join-file': 'file-link',
};
const MINUTE_MS = 60_000;

export interface InvitationDeskParts {
  readonly records: DataSource;
  readonly book: SessionBook;
  readonly secrets: CodeSecrets;
  readonly outbox: Outbox;
  readonly passes: DoorPasses;
  readonly gateway: MessageGateway;
  readonly policyOf: PolicyOf;
  onChanged(): void;
  publicUrl(): string;
}

const stateOf = (row: InvitationRow): Delivery =>
  row.delivery === 'failed'
    ? { name: 'failed', why: row.why ?? '' }
    : row.delivery === 'queued' || row.delivery === 'handed-over'
      ? { name: row.delivery, ...(row.why ? { why: row.why } : {}) }
      : { name: row.delivery };

export const invitationView = (row: InvitationRow): InvitationView => ({
  id: row.id,
  way: row.way,
  ...(row.address ? { address: row.address } : {}),
  language: row.language,
  delivery: row.delivery,
  ...(row.why ? { why: row.why } : {}),
  uses: row.uses,
  ...(row.usesAllowed === null ? {} : { usesAllowed: row.usesAllowed }),
  issuedAtMs: row.issuedAt.getTime(),
  changedAtMs: row.changedAt.getTime(),
  expiresAtMs: row.expiresAt.getTime(),
});

/** The ways into a session that are not its code: made, sent, followed on their way, used, withdrawn. */
export class InvitationDesk {
  readonly #parts: InvitationDeskParts;

  constructor(parts: InvitationDeskParts) {
    this.#parts = parts;
  }

  linkOf(row: InvitationRow): string {
    const token = this.#parts.secrets.open(row.sealedToken);
    if (token === undefined) throw new AppError('LINK_NOT_SHOWN');
    return `${this.#parts.publicUrl()}/join/${token}`;
  }

  /** Whether the secret that it was kept with is still known. */
  canShow(row: InvitationRow): boolean {
    return this.#parts.secrets.open(row.sealedToken) !== undefined;
  }

  /** Writes an invitation down within a session's own transaction; what must be sent goes into the outbox with it. */
  async issue(
    tx: EntityManager,
    sessionId: string,
    by: string,
    body: Partial<InviteBody> & { way: InvitationWay },
    nowMs: number,
    /** Sent by somebody else than this desk, a booking's mail for one, or carried here when the way is. */
    isSentElsewhere = false,
  ): Promise<{ row: InvitationRow; event: SessionEvent }> {
    const { secrets, outbox, policyOf } = this.#parts;
    const token = makeToken();
    const isCarried = carriedWays.includes(body.way);
    const row: InvitationRow = {
      id: randomUUID(),
      sessionId,
      way: body.way,
      sealedToken: secrets.seal(token),
      address: body.address ?? null,
      language: body.language ?? 'en',
      remark: body.remark ? body.remark : null,
      delivery: isCarried || isSentElsewhere ? 'queued' : 'ready',
      why: null,
      uses: 0,
      usesAllowed: body.uses ?? null,
      reportRef: makeToken(),
      issuedAt: new Date(nowMs),
      changedAt: new Date(nowMs),
      expiresAt: new Date(
        nowMs +
          (body.minutes
            ? body.minutes * MINUTE_MS
            : policyOf({ technicianId: by.replace(/^technician:/, '') }).invitationLifetimeMs),
      ),
    };
    await tx.getRepository(InvitationEntity).insert(row);
    await this.#parts.passes.invite(tx, token, {
      sessionId,
      way: passWays[body.way],
      invitationId: row.id,
      // Only the requester reads the ticket, so whoever comes by a link from there is them.
      proof: body.way === 'ticket-comment' ? 'ticket' : null,
      expiresAt: row.expiresAt,
    });
    if (isCarried) await outbox.put(tx, sessionId, 'invitation', { invitationId: row.id }, nowMs);
    return { row, event: { type: 'invitationIssued', by, invitationId: row.id, way: body.way } };
  }

  /** Throws NOT_THE_LEAD, SESSION_ENDED, WAY_NOT_SET_UP, ADDRESS_INVALID, TICKET_NOT_FOUND, TOO_MANY_ATTEMPTS. */
  async invite(me: Technician, sessionId: string, body: InviteBody): Promise<Invited> {
    let made: InvitationRow | undefined;
    await this.#parts.book.act(sessionId, async ({ state }, nowMs, tx) => {
      if (state.technicianId !== me.id) throw new AppError('NOT_THE_LEAD');
      if (isOver(state)) return refuse('SESSION_ENDED');
      const address = this.#checkedAddress(state, body);
      if ((await tx.getRepository(InvitationEntity).countBy({ sessionId })) >= MAX_INVITATIONS)
        throw new AppError('TOO_MANY_ATTEMPTS');
      const { row, event } = await this.issue(tx, sessionId, `technician:${me.id}`, { ...body, address }, nowMs);
      made = row;
      return [event];
    });
    if (!made) throw new AppError('INTERNAL');
    return { invitation: invitationView(made), link: this.linkOf(made) };
  }

  async ofSessions(ids: readonly string[]): Promise<InvitationRow[]> {
    if (!ids.length) return [];
    return this.#parts.records
      .getRepository(InvitationEntity)
      .find({ where: { sessionId: In([...ids]) }, order: { issuedAt: 'ASC' } });
  }

  /** The link that a session began with, as long as it works and can be shown. */
  async plainLinkOf(sessionId: string): Promise<string | undefined> {
    const row = (await this.ofSessions([sessionId])).find(
      (i) => i.way === 'link' && i.delivery !== 'withdrawn' && this.canShow(i),
    );
    return row && this.linkOf(row);
  }

  async byIds(ids: readonly string[]): Promise<InvitationRow[]> {
    return ids.length ? this.#parts.records.getRepository(InvitationEntity).findBy({ id: In([...ids]) }) : [];
  }

  async erase(tx: EntityManager, sessionId: string): Promise<void> {
    await tx.getRepository(InvitationEntity).update({ sessionId }, { address: null, remark: null, why: null });
  }

  /** Throws INVITATION_UNKNOWN when this session has no such invitation. */
  async find(sessionId: string, id: string): Promise<InvitationRow> {
    const row = await this.#parts.records.getRepository(InvitationEntity).findOneBy({ id, sessionId });
    if (!row) throw new AppError('INVITATION_UNKNOWN');
    return row;
  }

  /** A booking was moved: its link works as long as it must. */
  async extend(tx: EntityManager, id: string, expiresAt: Date): Promise<void> {
    await tx.getRepository(InvitationEntity).update({ id }, { expiresAt });
    await this.#parts.passes.extend(tx, id, expiresAt);
  }

  async withdraw(me: Technician, sessionId: string, id: string): Promise<void> {
    await this.#parts.book.act(sessionId, async ({ state }, nowMs, tx) => {
      if (state.technicianId !== me.id) throw new AppError('NOT_THE_LEAD');
      const row = await lockRow(tx, InvitationEntity, id);
      if (!row || row.sessionId !== sessionId) throw new AppError('INVITATION_UNKNOWN');
      if (!(await this.#move(tx, row, { type: 'withdrawn' }, nowMs))) return [];
      await this.#parts.passes.withdraw(tx, id);
      return [{ type: 'invitationWithdrawn', by: `technician:${me.id}`, invitationId: id, way: row.way }];
    });
  }

  /** A person pressed Continue. Throws INVITATION_WITHDRAWN, _EXPIRED, _USED_UP. */
  async use(tx: EntityManager, id: string): Promise<void> {
    const row = await lockRow(tx, InvitationEntity, id);
    const nowMs = await databaseNowMs(tx);
    if (!row) throw new AppError('INVITATION_UNKNOWN');
    const decision = decideUseInvitation(
      {
        delivery: row.delivery,
        expiresAtMs: row.expiresAt.getTime(),
        uses: row.uses,
        usesAllowed: row.usesAllowed ?? undefined,
      },
      nowMs,
    );
    if (isRefusal(decision)) throw new AppError(decision.refused);
    await tx.getRepository(InvitationEntity).update({ id }, { uses: row.uses + 1 });
    for (const event of decision) await this.#move(tx, row, event, nowMs);
  }

  /** What a gateway reports about a message of ours. Refs that nobody has are nobody's business. */
  async report(reportRef: string, report: DeliveryReport): Promise<void> {
    const row = await this.#parts.records.getRepository(InvitationEntity).findOneBy({ reportRef });
    if (!row) return;
    if (report.state === 'failed') await this.fail(row.id, report.why);
    else if (report.state === 'delivered') await this.note(row.id, { type: 'arrived' });
    else await this.note(row.id, { type: 'heldUp', why: report.why });
  }

  #checkedAddress(state: SessionState, body: InviteBody): string | undefined {
    const { gateway } = this.#parts;
    if (body.way === 'mail') {
      if (!gateway.hasMail) throw new AppError('WAY_NOT_SET_UP');
      const address = body.address ?? state.customerAddress ?? '';
      if (!isMailAddress(address)) throw new AppError('ADDRESS_INVALID');
      return address;
    }
    if (body.way === 'text-message') {
      if (!gateway.hasTexts) throw new AppError('WAY_NOT_SET_UP');
      if (!isTelephone(body.address ?? '')) throw new AppError('ADDRESS_INVALID');
      return body.address;
    }
    if (body.way === 'ticket-comment' && !state.ticketRef) throw new AppError('TICKET_NOT_FOUND');
    return undefined;
  }

  /** False when the event says nothing new. */
  async #move(tx: EntityManager, row: InvitationRow, event: DeliveryEvent, nowMs: number): Promise<boolean> {
    const next = evolveDelivery(stateOf(row), event);
    if (!next) return false;
    const why = 'why' in next ? (next.why ?? null) : null;
    await tx
      .getRepository(InvitationEntity)
      .update({ id: row.id }, { delivery: next.name, why, changedAt: new Date(nowMs) });
    return true;
  }

  /** What became of it on its way. */
  async note(id: string, event: DeliveryEvent): Promise<void> {
    await inTransaction(this.#parts.records, async (tx) => {
      const row = await lockRow(tx, InvitationEntity, id);
      if (row) await this.#move(tx, row, event, await databaseNowMs(tx));
    });
    this.#parts.onChanged();
  }

  /** A failure is told in the ledger, too: it explains the minutes that follow. */
  async fail(id: string, why: string): Promise<void> {
    const known = await this.#parts.records.getRepository(InvitationEntity).findOneBy({ id });
    if (!known) return;
    await this.#parts.book.act(known.sessionId, async ({ state }, nowMs, tx) => {
      const row = await lockRow(tx, InvitationEntity, id);
      if (!row || !(await this.#move(tx, row, { type: 'failed', why }, nowMs)) || isOver(state)) return [];
      return [{ type: 'invitationFailed', by: 'service', invitationId: id, way: row.way, personal: { why } }];
    });
    this.#parts.onChanged();
  }
}
