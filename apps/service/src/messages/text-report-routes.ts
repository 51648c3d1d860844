import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import type { Parts } from '../parts.ts';
import { keepBodiesAsText, readWebhook, webhookBase } from '../http/signed-webhook.ts';

const TextReport = z.strictObject({
  ...webhookBase,
  reportRef: z.string().max(80),
  state: z.enum(['delivered', 'failed', 'delayed']),
  why: z.string().max(200),
});

/** The text gateway says what became of a message. */
export const textReportRoutes: FastifyPluginAsyncZod<Parts & { textsKey: string }> = async (
  app,
  { records, invitations, textsKey },
) => {
  keepBodiesAsText(app);
  app.post('/webhooks/texts', { schema: { hide: true } }, async (request) => {
    const { reportRef, state, why } = await readWebhook(records, textsKey, TextReport, request);
    await invitations.report(reportRef, { state, why: why || (state === 'failed' ? 'it came back' : '') });
    return {};
  });
};
