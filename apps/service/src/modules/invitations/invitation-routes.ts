import { fillTemplate, momentInWords, purposeForCustomer, type Policy, type Templates } from '@porch/core';
import { InvitationView, InviteBody, Invited, MessagePreview } from '@porch/wire';
import type { FastifyRequest } from 'fastify';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { personOf } from '../../auth/guard.ts';
import type { SessionDesk } from '../sessions/session-desk.ts';
import { invitationView, type InvitationDesk } from './invitation-desk.ts';
import { calendarFile, joinFile, qrPicture } from './invitation-files.ts';

const OneSession = z.object({ id: z.uuid() });
const OneInvitation = z.object({ id: z.uuid(), invitationId: z.uuid() });
/** A calendar entry without a booking begins soon: somebody is on the telephone. */
const SOON_MS = 5 * 60_000;
const SOON_MINUTES = 30;

export interface InvitationRoutesParts {
  readonly desk: SessionDesk;
  readonly invitations: InvitationDesk;
  readonly policy: Pick<Policy, 'deskName' | 'deskPhone' | 'timeZone'>;
  readonly templates: Templates;
  readonly mailFrom: string;
  changed(): void;
  publicUrl(): string;
}

/** A session's invitations for its technicians: made, listed, read as picture or file, withdrawn. */
export const invitationRoutes =
  (parts: InvitationRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    const { desk, invitations, policy, changed } = parts;

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
        return invitations.preview(technician, state, request.body);
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
    app.get(
      '/sessions/:id/invitations/:invitationId/link',
      {
        config: { may: 'read a session' },
        schema: { params: OneInvitation, response: { 200: z.object({ link: z.string() }) } },
      },
      async (request, reply) => {
        const { row } = await openFor(request);
        void reply.header('cache-control', 'no-store');
        return { link: invitations.linkOf(row) };
      },
    );
    app.get(
      '/sessions/:id/invitations/:invitationId/qr.png',
      { config: { may: 'read a session' }, schema: { hide: true, params: OneInvitation } },
      async (request, reply) => {
        const { row } = await openFor(request);
        return reply
          .type('image/png')
          .header('cache-control', 'no-store')
          .send(await qrPicture(invitations.linkOf(row)));
      },
    );
    app.get(
      '/sessions/:id/invitations/:invitationId/join-file',
      { config: { may: 'read a session' }, schema: { hide: true, params: OneInvitation } },
      async (request, reply) => {
        const { row } = await openFor(request);
        return reply
          .type('text/html')
          .header('cache-control', 'no-store')
          .header('content-disposition', 'attachment; filename="help.html"')
          .send(joinFile(policy.deskName, invitations.linkOf(row)));
      },
    );
    app.get(
      '/sessions/:id/invitations/:invitationId/calendar',
      { config: { may: 'read a session' }, schema: { hide: true, params: OneInvitation } },
      async (request, reply) => {
        const { row, state } = await openFor(request);
        const link = invitations.linkOf(row);
        const words = fillTemplate(parts.templates.calendar[row.language], {
          customer: state.customerName ?? '',
          technician: state.technicianName ?? '',
          desk: policy.deskName,
          phone: policy.deskPhone,
          purpose: purposeForCustomer(state, row.language),
          link,
          until: momentInWords(row.expiresAt.getTime(), row.language, policy.timeZone),
          remark: row.remark ?? '',
        });
        return reply
          .type('text/calendar; charset=utf-8')
          .header('cache-control', 'no-store')
          .header('content-disposition', 'attachment; filename="session.ics"')
          .send(
            calendarFile({
              uid: `${row.id}@${new URL(parts.publicUrl()).hostname}`,
              sequence: 0,
              startsAtMs: row.issuedAt.getTime() + SOON_MS,
              minutes: SOON_MINUTES,
              summary: words.subject,
              description: words.text,
              link,
              organizer: { name: policy.deskName, from: parts.mailFrom },
              isCancelled: false,
              remindMinutes: [],
            }),
          );
      },
    );

    async function openFor(request: FastifyRequest<{ Params: z.infer<typeof OneInvitation> }>) {
      const { id, state } = await desk.read(personOf(request), request.params.id);
      return { row: await invitations.find(id, request.params.invitationId), state };
    }
  };
