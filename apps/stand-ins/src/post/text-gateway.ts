import { createHmac, randomUUID, timingSafeEqual } from 'node:crypto';
import type { FastifyInstance } from 'fastify';
import { z } from 'zod';

export type TextMode = 'well' | 'refuse' | 'bounce' | 'down';
export const textModes: readonly TextMode[] = ['well', 'refuse', 'bounce', 'down'];

export interface KeptText {
  readonly id: string;
  readonly atMs: number;
  readonly to: string;
  readonly text: string;
}
const MAX_KEPT = 500;
const REPORT_TRIES = 4;
const Message = z.strictObject({
  to: z.string().max(40),
  text: z.string().min(1).max(1_000),
  reportRef: z.string().max(80),
});
export const plainNumber = (number: string): string => number.replace(/[^\d+]/g, '');

/** A text message gateway: takes messages over HTTP, and says by a signed webhook what became of each. */
export class TextGateway {
  readonly #key: string;
  readonly #webhookUrl: string | undefined;
  readonly texts: KeptText[] = [];
  mode: TextMode = 'well';

  constructor(key: string, webhookUrl: string | undefined) {
    this.#key = key;
    this.#webhookUrl = webhookUrl;
  }

  addRoutes(app: FastifyInstance): void {
    app.post('/messages', async (request, reply) => {
      const given = Buffer.from(request.headers.authorization ?? '');
      const right = Buffer.from(`Bearer ${this.#key}`);
      if (given.length !== right.length || !timingSafeEqual(given, right))
        return reply.code(401).send({ message: 'the key is wrong' });
      if (this.mode === 'down') return reply.code(503).send({ message: 'out of order' });
      const message = Message.safeParse(request.body);
      if (!message.success) return reply.code(400).send({ message: 'to, text and reportRef are needed' });
      if (this.mode === 'refuse') return reply.code(422).send({ message: 'this number takes no messages' });
      const { to, text, reportRef } = message.data;
      const id = randomUUID();
      if (this.mode === 'bounce') this.#reportLater(reportRef, 'failed', 'the telephone is switched off');
      else {
        this.texts.unshift({ id, atMs: Date.now(), to: plainNumber(to), text });
        this.texts.length = Math.min(this.texts.length, MAX_KEPT);
        this.#reportLater(reportRef, 'delivered', '');
      }
      return reply.code(202).send({ id });
    });
  }

  /** A gateway goes on when whoever it reports to is away. */
  #reportLater(reportRef: string, state: 'delivered' | 'failed', why: string): void {
    this.#report(reportRef, state, why).catch((error: unknown) =>
      process.emitWarning(`a report did not arrive: ${String(error)}`),
    );
  }

  async #report(reportRef: string, state: 'delivered' | 'failed', why: string): Promise<void> {
    if (!this.#webhookUrl) return;
    const deliveryId = randomUUID();
    for (let attempt = 0; attempt < REPORT_TRIES; attempt++) {
      const body = JSON.stringify({ deliveryId, sentAtMs: Date.now(), reportRef, state, why });
      const isTaken = await fetch(this.#webhookUrl, {
        method: 'POST',
        body,
        headers: {
          'content-type': 'application/json',
          'porch-signature': createHmac('sha256', this.#key).update(body).digest('hex'),
        },
      }).then(
        (answer) => answer.ok,
        () => false,
      );
      if (isTaken) return;
      await new Promise((resolve) => setTimeout(resolve, 300 * 2 ** attempt).unref());
    }
  }
}
