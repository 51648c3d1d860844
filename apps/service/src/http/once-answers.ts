import type { FastifyRequest } from 'fastify';

/** Characters of a key. */
export const ONCE_KEY = { least: 8, most: 128 } as const;

/** Answers that are given again when the same is asked with the same key. */
export interface OnceAnswers {
  /** Does the work, or answers as it did before. Throws ONCE_REUSED, ONCE_UNDER_WAY, ONCE_UNKNOWN. */
  once(request: FastifyRequest, operationId: string, work: () => Promise<unknown>): Promise<unknown>;
}
