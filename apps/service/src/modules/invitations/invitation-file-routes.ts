import type { PolicyFor } from '@porch/core';
import { api } from '@porch/wire';
import type { FastifyRequest } from 'fastify';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { serve } from '../../http/serve.ts';
import type { SessionDesk } from '../sessions/session-desk.ts';
import type { InvitationDesk } from './invitation-desk.ts';
import { joinFile, qrPicture } from './invitation-files.ts';
import type { InvitationMessages } from './invitation-messages.ts';

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
    const may = { may: 'read a session' } as const;
    serve(app, api.invitationLink, may, async ({ params, request }) => ({
      link: invitations.linkOf((await openFor(params, request)).row),
    }));
    serve(app, api.invitationQr, may, async ({ params, request }) =>
      qrPicture(invitations.linkOf((await openFor(params, request)).row)),
    );
    serve(app, api.invitationJoinFile, may, async ({ params, request, reply }) => {
      const { row } = await openFor(params, request);
      reply.header('content-disposition', 'attachment; filename="help.html"');
      return joinFile(policyFor().deskName, invitations.linkOf(row));
    });
    serve(app, api.invitationCalendar, may, async ({ params, request, reply }) => {
      const { row, state } = await openFor(params, request);
      reply.header('content-disposition', 'attachment; filename="session.ics"');
      return messages.calendar(row, state);
    });

    async function openFor(params: { id: string; invitationId: string }, request: FastifyRequest) {
      const { id, state } = await desk.read(personOf(request), params.id);
      return { row: await invitations.find(id, params.invitationId), state };
    }
  };
