import { createHmac, timingSafeEqual } from 'node:crypto';
import { AppError } from '@porch/wire';
import type { FastifyInstance, FastifyRequest } from 'fastify';
import type { DataSource } from 'typeorm';
import { z } from 'zod';
import { WebhookEntity } from './webhook-table.ts';

/** A webhook older than this is refused, so that old ones need not be remembered for ever. */
const MAX_AGE_MS = 5 * 60_000;
const MAX_BYTES = 16 * 1024;

/** What every webhook says of itself. */
export const webhookBase = { deliveryId: z.string().max(80), sentAtMs: z.number() };

/** `porch-signature` is the HMAC-SHA-256, in hex, of the exact body with the key both sides share. */
export const signWebhook = (key: string, body: string): string => createHmac('sha256', key).update(body).digest('hex');

/** The signature is over the bytes as they came, so they must not be parsed before. */
export function keepBodiesAsText(app: FastifyInstance): void {
  app.addContentTypeParser('application/json', { parseAs: 'string', bodyLimit: MAX_BYTES }, (_request, body, done) =>
    done(null, body),
  );
}

/** Signed, fresh and seen for the first time, or WEBHOOK_REFUSED. */
export async function readWebhook<T extends { deliveryId: string; sentAtMs: number }>(
  records: DataSource,
  key: string,
  Body: z.ZodType<T>,
  request: FastifyRequest,
): Promise<T> {
  const text = String(request.body);
  const given = Buffer.from(String(request.headers['porch-signature'] ?? ''), 'hex');
  const right = Buffer.from(signWebhook(key, text), 'hex');
  if (given.length !== right.length || !timingSafeEqual(given, right)) throw new AppError('WEBHOOK_REFUSED');
  const body = parse(Body, text);
  if (Math.abs(Date.now() - body.sentAtMs) > MAX_AGE_MS) throw new AppError('WEBHOOK_REFUSED');
  await records.query(`DELETE FROM "webhook_seen" WHERE "at" < clock_timestamp() - interval '1 hour'`);
  const inserted = await records
    .getRepository(WebhookEntity)
    .createQueryBuilder()
    .insert()
    .values({ deliveryId: body.deliveryId, at: new Date() })
    .orIgnore()
    .returning('"delivery_id"')
    .execute();
  if (!(inserted.raw as unknown[]).length) throw new AppError('WEBHOOK_REFUSED');
  return body;
}

function parse<T>(Body: z.ZodType<T>, text: string): T {
  try {
    return Body.parse(JSON.parse(text));
  } catch (cause) {
    throw new AppError('WEBHOOK_REFUSED', {}, { cause });
  }
}
