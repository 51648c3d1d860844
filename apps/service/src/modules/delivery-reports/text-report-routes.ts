import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import type { DataSource } from 'typeorm';
import { z } from 'zod';
import { keepBodiesAsText, readWebhook, webhookBase } from '../../http/signed-webhook.ts';
import type { InvitationDesk } from '../invitations/invitation-desk.ts';

export interface TextReportRoutesParts {
  readonly records: DataSource;
  readonly invitations: Pick<InvitationDesk, 'report'>;
  /** Both sides share it. */
  readonly textsKey: string;
}

const TextReport = z.strictObject({
  ...webhookBase,
  reportRef: z.string().max(80),
  state: z.enum(['delivered', 'failed', 'delayed']),
  why: z.string().max(200),
});

/** The text gateway says what became of a message. */
export const textReportRoutes =
  ({ records, invitations, textsKey }: TextReportRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    keepBodiesAsText(app);
    app.post('/webhooks/texts', async (request) => {
      const { reportRef, state, why } = await readWebhook(records, textsKey, TextReport, request);
      await invitations.report(reportRef, { state, why: why || (state === 'failed' ? 'it came back' : '') });
      return {};
    });
  };
