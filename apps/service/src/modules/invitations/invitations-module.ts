import type { Config } from '../../config.ts';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import type { MessageGateway } from '../messages/message-gateway.ts';
import type { Outbox } from '../outbox/outbox.ts';
import type { DoorPasses } from '../passes/door-passes.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import type { SessionDesk } from '../sessions/session-desk.ts';
import type { TicketSystem } from '../tickets/ticket-system.ts';
import { InvitationDesk, invitationView } from './invitation-desk.ts';
import { InvitationMessages } from './invitation-messages.ts';
import { invitationFileRoutes } from './invitation-file-routes.ts';
import { invitationRoutes } from './invitation-routes.ts';
import { InvitationEntity } from './invitation-table.ts';

interface Needs extends Pick<Kit, 'records' | 'secrets' | 'policy' | 'changes' | 'publicUrl'> {
  readonly config: Pick<Config, 'templates' | 'mailFrom'>;
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
    const { config, policy, desk, changes } = kit;
    const { templates, mailFrom } = config;
    const invitations = new InvitationDesk({ ...kit, onChanged: changes.of('sessions', 'bookings') });
    const messages = new InvitationMessages({ ...kit, desk: invitations, templates, mailFrom });
    return {
      gives: { invitations },
      routes: [
        { plugin: invitationRoutes({ desk, invitations, messages, changed: changes.of('sessions') }) },
        { plugin: invitationFileRoutes({ desk, invitations, messages, policy }) },
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
