import { AppError } from '@porch/wire';
import type { FastifyRequest } from 'fastify';
import { createHash, type BinaryLike } from 'node:crypto';
import type { DataSource, EntityManager } from 'typeorm';
import type { CodeSecrets } from '../../auth/tokens.ts';
import { ONCE_KEY, type OnceAnswers } from '../../http/once-answers.ts';
import { addressKey } from '../../sockets/addresses.ts';
import { OnceEntity } from './once-table.ts';

/** Whoever asks again does so within a day. */
const KEPT_HOURS = 24;
/** What is not done by then never will be: the process that did it has gone. */
const MOST_WORK_MS = 60_000;
const KEY = new RegExp(`^[\\x21-\\x7e]{${ONCE_KEY.least},${ONCE_KEY.most}}$`);

const hashOf = (...parts: readonly BinaryLike[]): Buffer => {
  const hash = createHash('sha256');
  for (const part of parts) hash.update(part).update('\0');
  return hash.digest();
};

/**
 * The Idempotency-Key of a request (draft-ietf-httpapi-idempotency-key-header): what creates something is done once for
 * each key, and asked again it is answered as before. Answers hold links and names, so they are kept sealed, and not for
 * long. What was refused was not done, and may be asked again.
 */
export class KeptAnswers implements OnceAnswers {
  readonly #records: DataSource;
  readonly #secrets: CodeSecrets;

  constructor(records: DataSource, secrets: CodeSecrets) {
    this.#records = records;
    this.#secrets = secrets;
  }

  async once(request: FastifyRequest, operationId: string, work: () => Promise<unknown>): Promise<unknown> {
    const key = request.headers['idempotency-key'];
    if (key === undefined) return work();
    if (typeof key !== 'string' || !KEY.test(key)) throw new AppError('INVALID_REQUEST');
    const who = request.signedIn?.technician.id ?? `at ${addressKey(request.ip)}`;
    const keyHash = hashOf(operationId, who, key);
    const askedHash = hashOf(JSON.stringify([request.params, request.body]));
    if (!(await this.#begin(keyHash, askedHash))) return this.#answerOf(keyHash, askedHash);
    try {
      const answer = await work();
      const sealedAnswer = this.#secrets.sealBytes(Buffer.from(JSON.stringify(answer)));
      await this.#rows().update({ keyHash }, { sealedAnswer, sessionId: sessionOf(answer, request.params) });
      return answer;
    } catch (error) {
      if (error instanceof AppError) await this.#rows().delete({ keyHash });
      throw error;
    }
  }

  async forgetOld(): Promise<void> {
    await this.#records.query(
      `DELETE FROM "once_answer" WHERE "at" < clock_timestamp() - interval '${KEPT_HOURS} hours'`,
    );
  }

  async erase(tx: EntityManager, sessionId: string): Promise<void> {
    await tx.getRepository(OnceEntity).delete({ sessionId });
  }

  /** Whether it is ours to do: false when somebody has this key already. */
  async #begin(keyHash: Buffer, askedHash: Buffer): Promise<boolean> {
    const { raw } = await this.#rows()
      .createQueryBuilder()
      .insert()
      .values({ keyHash, askedHash, sealedAnswer: null, sessionId: null, at: () => 'clock_timestamp()' })
      .orIgnore()
      .returning('"key_hash"')
      .execute();
    return (raw as unknown[]).length > 0;
  }

  async #answerOf(keyHash: Buffer, askedHash: Buffer): Promise<unknown> {
    const row = await this.#rows().findOneBy({ keyHash });
    // It was refused a moment ago, and may be asked again.
    if (!row) throw new AppError('ONCE_UNDER_WAY');
    if (!row.askedHash.equals(askedHash)) throw new AppError('ONCE_REUSED');
    if (!row.sealedAnswer)
      throw new AppError(Date.now() - row.at.getTime() < MOST_WORK_MS ? 'ONCE_UNDER_WAY' : 'ONCE_UNKNOWN');
    const opened = this.#secrets.openBytes(row.sealedAnswer);
    if (!opened) throw new AppError('ONCE_UNKNOWN');
    return JSON.parse(opened.toString()) as unknown;
  }

  #rows() {
    return this.#records.getRepository(OnceEntity);
  }
}

/** Which session an answer is about, so that erasing it reaches the answer. */
function sessionOf(answer: unknown, params: unknown): string | null {
  const { session, sessionId } = answer as { session?: { id?: string }; sessionId?: string };
  return session?.id ?? sessionId ?? (params as { id?: string }).id ?? null;
}
