import { InvitationView, InviteBody, Invited, MessagePreview } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { personOf } from '../../auth/guard.ts';
import type { SessionDesk } from '../sessions/session-desk.ts';
import { invitationView, type InvitationDesk } from './invitation-desk.ts';
import type { InvitationMessages } from './invitation-messages.ts';

const OneSession = z.object({ id: z.uuid() });
const OneInvitation = z.object({ id: z.uuid(), invitationId: z.uuid() });

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

    app.get(
      '/sessions/:id/invitations',
      { config: { may: 'read a session' }, schema: { params: OneSession, response: { 200: z.array(InvitationView) } } },
      async (request) => {
        const { id } = await desk.read(personOf(request), request.params.id);
        return (await invitations.ofSessions([id])).map(invitationView);
      },
    );
    app.post(
      '/sessions/:id/invitations',
      {
        config: { may: 'invite into a session' },
        schema: { params: OneSession, body: InviteBody, response: { 200: Invited } },
      },
      async (request) => invitations.invite(personOf(request), request.params.id, request.body),
    );
    app.post(
      '/sessions/:id/invitations/preview',
      {
        config: { may: 'invite into a session' },
        schema: { params: OneSession, body: InviteBody, response: { 200: MessagePreview } },
      },
      async (request) => {
        const technician = personOf(request);
        const { state } = await desk.read(technician, request.params.id);
        return messages.preview(technician, state, request.body);
      },
    );
    app.post(
      '/sessions/:id/invitations/:invitationId/withdraw',
      { config: { may: 'invite into a session' }, schema: { params: OneInvitation, response: { 200: z.object({}) } } },
      async (request) => {
        await invitations.withdraw(personOf(request), request.params.id, request.params.invitationId);
        changed();
        return {};
      },
    );
  };
