import { AppError } from '@porch/wire';
import type { FastifyRequest } from 'fastify';
import { createHash } from 'node:crypto';

/** Characters of an entity tag, quotes and all. */
export const MOST_ETAG = 82;
const ETAG = /^"[\x21\x23-\x7e]+"$/;

/** An entity tag (RFC 9110, 8.8.3) of an answer: the same for as long as it says the same. */
export const etagOf = (answer: unknown): string =>
  `"${createHash('sha256').update(JSON.stringify(answer)).digest('base64url').slice(0, 22)}"`;

/** What If-Match demands (RFC 9110, 13.1.1); undefined: nothing, or anything. Throws INVALID_REQUEST for more than one. */
export function wantedVersion(request: FastifyRequest): string | undefined {
  const said = request.headers['if-match'];
  if (said === undefined || said === '*') return undefined;
  if (said.length > MOST_ETAG || !ETAG.test(said)) throw new AppError('INVALID_REQUEST');
  return said;
}

/** Throws CHANGED_MEANWHILE when it is at another version than the caller has seen. */
export function mustBeSeen(seen: string | undefined, version: string): void {
  if (seen !== undefined && seen !== version) throw new AppError('CHANGED_MEANWHILE');
}
