import type { PolicyFor } from '@porch/core';
import type { Config } from '../../config.ts';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import type { MessageGateway } from '../messages/message-gateway.ts';
import type { Outbox } from '../outbox/outbox.ts';
import type { DoorPasses } from '../passes/door-passes.ts';
import type { PolicyOf } from '../sessions/policy-of.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import type { SessionDesk } from '../sessions/session-desk.ts';
import type { TicketSystem } from '../tickets/ticket-system.ts';
import { InvitationDesk, invitationView } from './invitation-desk.ts';
import { InvitationMessages } from './invitation-messages.ts';
import { invitationFileRoutes } from './invitation-file-routes.ts';
import { invitationRoutes } from './invitation-routes.ts';
import { InvitationEntity } from './invitation-table.ts';

interface Needs extends Pick<Kit, 'records' | 'secrets' | 'changes' | 'publicUrl'> {
  readonly config: Pick<Config, 'mailFrom'>;
  readonly policyFor: PolicyFor;
  readonly policyOf: PolicyOf;
  readonly book: SessionBook;
  readonly desk: SessionDesk;
  readonly passes: DoorPasses;
  readonly outbox: Outbox;
  readonly gateway: MessageGateway;
  readonly ticketSystem: TicketSystem;
}

/** The ways into a session that are not its code. */
export const invitationsModule = defineModule({
  name: 'invitations',
  tables: [InvitationEntity],
  build: (kit: Needs) => {
    const { policyFor, desk, changes } = kit;
    const { mailFrom } = kit.config;
    const invitations = new InvitationDesk({ ...kit, onChanged: changes.of('sessions', 'bookings') });
    const messages = new InvitationMessages({ ...kit, desk: invitations, mailFrom });
    return {
      gives: { invitations },
      routes: [
        { plugin: invitationRoutes({ desk, invitations, messages, changed: changes.of('sessions') }) },
        { plugin: invitationFileRoutes({ desk, invitations, messages, policyFor }) },
      ],
      erase: (tx, sessionId) => invitations.erase(tx, sessionId),
      beside: async (ids) => {
        const rows = await invitations.ofSessions(ids);
        return new Map(
          ids.map((id) => [id, { invitations: rows.filter((i) => i.sessionId === id).map(invitationView) }]),
        );
      },
      carriers: { invitation: messages.carrier },
    };
  },
});
