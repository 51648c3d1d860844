import type { PolicyFor } from '@porch/core';
import type { FastifyRequest } from 'fastify';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { personOf } from '../../auth/guard.ts';
import type { SessionDesk } from '../sessions/session-desk.ts';
import type { InvitationDesk } from './invitation-desk.ts';
import { joinFile, qrPicture } from './invitation-files.ts';
import type { InvitationMessages } from './invitation-messages.ts';

const OneInvitation = z.object({ id: z.uuid(), invitationId: z.uuid() });

export interface InvitationFileRoutesParts {
  readonly desk: SessionDesk;
  readonly invitations: InvitationDesk;
  readonly messages: InvitationMessages;
  readonly policyFor: PolicyFor;
}

/** An invitation as something to hand on: its link, a picture, a file, a calendar entry. */
export const invitationFileRoutes =
  ({ desk, invitations, messages, policyFor }: InvitationFileRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    app.get(
      '/sessions/:id/invitations/:invitationId/link',
      {
        config: { may: 'read a session' },
        schema: { params: OneInvitation, response: { 200: z.object({ link: z.string() }) } },
      },
      async (request) => ({ link: invitations.linkOf((await openFor(request)).row) }),
    );
    app.get(
      '/sessions/:id/invitations/:invitationId/qr.png',
      { config: { may: 'read a session' }, schema: { hide: true, params: OneInvitation } },
      async (request, reply) => {
        const { row } = await openFor(request);
        return reply.type('image/png').send(await qrPicture(invitations.linkOf(row)));
      },
    );
    app.get(
      '/sessions/:id/invitations/:invitationId/join-file',
      { config: { may: 'read a session' }, schema: { hide: true, params: OneInvitation } },
      async (request, reply) => {
        const { row } = await openFor(request);
        return reply
          .type('text/html')
          .header('content-disposition', 'attachment; filename="help.html"')
          .send(joinFile(policyFor().deskName, invitations.linkOf(row)));
      },
    );
    app.get(
      '/sessions/:id/invitations/:invitationId/calendar',
      { config: { may: 'read a session' }, schema: { hide: true, params: OneInvitation } },
      async (request, reply) => {
        const { row, state } = await openFor(request);
        return reply
          .type('text/calendar; charset=utf-8')
          .header('content-disposition', 'attachment; filename="session.ics"')
          .send(messages.calendar(row, state));
      },
    );

    async function openFor(request: FastifyRequest<{ Params: z.infer<typeof OneInvitation> }>) {
      const { id, state } = await desk.read(personOf(request), request.params.id);
      return { row: await invitations.find(id, request.params.invitationId), state };
    }
  };
