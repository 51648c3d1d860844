import { randomUUID } from 'node:crypto';
import { mayComeBack, type PolicyFor } from '@porch/core';
import { AppError, type Started, type TicketView } from '@porch/wire';
import { permit } from '../../auth/permit.ts';
import type { CodeDesk } from '../codes/code-desk.ts';
import type { SessionCodes } from '../codes/session-codes.ts';
import type { Device, DeviceDesk } from '../devices/device-desk.ts';
import type { DeviceGateway } from '../devices/device-gateway.ts';
import type { InvitationDesk } from '../invitations/invitation-desk.ts';
import type { DoorPasses } from '../passes/door-passes.ts';
import type { Technician } from '../people/technician.ts';
import type { QueueDesk } from '../queue/queue-desk.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import type { SessionLists } from '../sessions/session-lists.ts';
import type { TicketLists } from '../tickets/ticket-lists.ts';
import { preparedEvents } from './prepared-events.ts';

export interface StartingDeskParts {
  readonly book: SessionBook;
  readonly lists: SessionLists;
  readonly codes: CodeDesk;
  readonly sessionCodes: SessionCodes;
  readonly invitations: InvitationDesk;
  readonly queue: QueueDesk;
  readonly ticketLists: TicketLists;
  readonly devices: DeviceDesk;
  readonly deviceGateway: DeviceGateway;
  readonly passes: DoorPasses;
  readonly policyFor: PolicyFor;
}

export interface StartFrom {
  readonly ticketRef?: string | undefined;
  readonly queueEntryId?: string | undefined;
  /** A device that the session is to take place at. */
  readonly device?: Device | undefined;
  /** The asker's own: asked again with it, since no answer came, it is the same session. */
  readonly sessionId?: string | undefined;
}

/** How a session begins: from nothing, a ticket, somebody waiting, or at a device. */
export class StartingDesk {
  readonly #parts: StartingDeskParts;

  constructor(parts: StartingDeskParts) {
    this.#parts = parts;
  }

  /** The same unused code again until somebody joins with it; otherwise a new session. */
  async start(me: Technician, from: StartFrom): Promise<Started> {
    const { lists, codes, book, queue, invitations } = this.#parts;
    if (!from.ticketRef && !from.queueEntryId && !from.device) {
      const unused = await lists.unusedPlain(await codes.freeOf(me.id));
      if (unused) return this.#started(me, unused, false);
    }
    const id = from.sessionId ?? randomUUID();
    const owner = await lists.ownerOf(id);
    if (owner !== undefined) {
      if (owner !== me.id) throw new AppError('SESSION_NOT_FOUND');
      return this.#started(me, id, false);
    }
    const entry = from.queueEntryId ? await queue.find(from.queueEntryId) : undefined;
    if (entry) permit(me, 'take somebody waiting', { offeredTo: entry.offeredTo ?? undefined });
    const ref = from.ticketRef ?? entry?.ticketRef ?? undefined;
    const ticket = ref ? await this.#readTicket(ref, entry !== undefined) : undefined;
    await book.prepare(id, async (tx, nowMs) => {
      const taken = entry ? await queue.take(tx, entry.id, me.id, id, nowMs) : undefined;
      const prepared = preparedEvents(me, ticket, ref, taken?.row ?? null, taken?.saidBefore ?? [], from.device);
      const code = await codes.issue(tx, id, me.id, nowMs);
      const link = await invitations.issue(tx, id, `technician:${me.id}`, { way: 'link' }, nowMs);
      return [...prepared, code.event, link.event];
    });
    return this.#started(me, id, true);
  }

  /** At a device that its customer lets the desk reach: it is knocked at. Throws DEVICE_NOT_FOUND, DEVICE_OFFLINE. */
  async visit(me: Technician, deviceId: string, from: StartFrom): Promise<Started> {
    const { policyFor, devices, deviceGateway, passes } = this.#parts;
    if (!mayComeBack(policyFor(me.team).askLimits, me)) throw new AppError('NOT_ALLOWED_BY_DESK');
    permit(me, 'visit a device');
    const device = await devices.reachable(deviceId);
    if (!deviceGateway.presenceOf(deviceId)) throw new AppError('DEVICE_OFFLINE');
    const started = await this.start(me, { ...from, device });
    const token = await passes.forDevice(started.session.id);
    deviceGateway.tell(deviceId, {
      type: 'visit',
      sessionId: started.session.id,
      token,
      technicianName: me.name,
    });
    return started;
  }

  async #readTicket(ref: string, isOptional: boolean): Promise<TicketView | undefined> {
    try {
      return await this.#parts.ticketLists.read(ref);
    } catch (error) {
      // A customer may have mistyped the ticket on the request page; that must not keep them waiting.
      if (isOptional && error instanceof AppError) return undefined;
      throw error;
    }
  }

  async #started(me: Technician, id: string, isNew: boolean): Promise<Started> {
    const { codes, sessionCodes, invitations, lists } = this.#parts;
    let code = await codes.currentView(id);
    // One that is kept with a secret that is lost is as good as none.
    if (code === 'cannot be shown' && !isNew) code = await sessionCodes.renew(me, id);
    if (code === undefined || code === 'cannot be shown') throw new AppError('CODE_EXPIRED');
    return { session: await lists.view(id), code, link: (await invitations.plainLinkOf(id)) ?? '', isNew };
  }
}
