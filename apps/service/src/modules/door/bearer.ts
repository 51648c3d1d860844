import { AppError } from '@porch/wire';
import type { FastifyRequest } from 'fastify';
import { readCookie } from '../../http/cookies.ts';

/** What a customer's program carries to say which pass it has: a bearer token, or the page's cookie. */
export function passTokenOf(request: FastifyRequest): string {
  const header = request.headers.authorization;
  if (header?.startsWith('Bearer ')) return header.slice(7);
  const cookie = readCookie(request, 'porch_door');
  // A cookie comes along by itself; only our own pages can add this header.
  if (!cookie || (request.method !== 'GET' && request.headers['x-porch'] !== '1'))
    throw new AppError('INVITATION_UNKNOWN');
  return cookie;
}
