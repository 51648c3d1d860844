import { api } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { pageOfList } from '../../http/paging.ts';
import { serve } from '../../http/serve.ts';
import type { SessionDesk } from '../sessions/session-desk.ts';
import { invitationView, type InvitationDesk } from './invitation-desk.ts';
import type { InvitationMessages } from './invitation-messages.ts';

export interface InvitationRoutesParts {
  readonly desk: SessionDesk;
  readonly invitations: InvitationDesk;
  readonly messages: InvitationMessages;
  changed(): void;
}

/** A session's invitations for its technicians: made, listed, withdrawn. */
export const invitationRoutes =
  (parts: InvitationRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    const { desk, invitations, messages, changed } = parts;

    serve(app, api.invitations, { may: 'read a session' }, async ({ params, query, request }) => {
      const { id } = await desk.read(personOf(request), params.id);
      const views = (await invitations.ofSessions([id])).map(invitationView);
      const wanted = views.filter(({ delivery }) => query.delivery === undefined || delivery === query.delivery);
      return pageOfList(wanted, query, `invitations of ${id}`, (one) => [one.issuedAtMs, one.id]);
    });
    serve(app, api.invite, { may: 'invite into a session' }, ({ params, body, request }) =>
      invitations.invite(personOf(request), params.id, body),
    );
    serve(app, api.previewInvitation, { may: 'invite into a session' }, async ({ params, body, request }) => {
      const technician = personOf(request);
      const { state } = await desk.read(technician, params.id);
      return messages.preview(technician, state, body);
    });
    serve(app, api.withdrawInvitation, { may: 'invite into a session' }, async ({ params, request }) => {
      await invitations.withdraw(personOf(request), params.id, params.invitationId);
      changed();
    });
  };
