import { createHmac, timingSafeEqual } from 'node:crypto';
import { AppError } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import type { Parts } from '../app.ts';
import { WebhookEntity } from '../db/entities.ts';

/** A webhook older than this is refused, so that old ones need not be remembered for ever. */
const MAX_AGE_MS = 5 * 60_000;

const Body = z.strictObject({
  deliveryId: z.string().max(80),
  sentAtMs: z.number(),
  event: z.enum(['ticketChanged', 'ticketMade']),
  ref: z.string().max(40),
});

/** `porch-signature` is the HMAC-SHA-256, in hex, of the exact body with the key both sides share. */
export const signWebhook = (key: string, body: string): string => createHmac('sha256', key).update(body).digest('hex');

/** The ticket system says that something changed. Signed, fresh and seen for the first time, or refused. */
export const webhookRoutes: FastifyPluginAsyncZod<Parts & { ticketsKey: string }> = async (
  app,
  { records, ticketLists, feed, ticketsKey },
) => {
  // The signature is over the bytes as they came, so they must not be parsed before.
  app.addContentTypeParser('application/json', { parseAs: 'string', bodyLimit: 16 * 1024 }, (_request, body, done) =>
    done(null, body),
  );

  app.post('/webhooks/tickets', { schema: { hide: true } }, async (request) => {
    const text = String(request.body);
    const given = Buffer.from(String(request.headers['porch-signature'] ?? ''), 'hex');
    const right = Buffer.from(signWebhook(ticketsKey, text), 'hex');
    if (given.length !== right.length || !timingSafeEqual(given, right)) throw new AppError('WEBHOOK_REFUSED');
    const body = parse(text);
    if (Math.abs(Date.now() - body.sentAtMs) > MAX_AGE_MS) throw new AppError('WEBHOOK_REFUSED');
    const seen = records.getRepository(WebhookEntity);
    await records.query(`DELETE FROM "webhook_seen" WHERE "at" < clock_timestamp() - interval '1 hour'`);
    const inserted = await seen
      .createQueryBuilder()
      .insert()
      .values({ deliveryId: body.deliveryId, at: new Date() })
      .orIgnore()
      .returning('"delivery_id"')
      .execute();
    if (!(inserted.raw as unknown[]).length) throw new AppError('WEBHOOK_REFUSED');
    ticketLists.expire();
    feed.changed();
    return {};
  });
};

function parse(text: string): z.infer<typeof Body> {
  try {
    return Body.parse(JSON.parse(text));
  } catch (cause) {
    throw new AppError('WEBHOOK_REFUSED', {}, { cause });
  }
}
