import { AppError } from '@porch/wire';
import type { FastifyRequest } from 'fastify';
import { readCookie } from '../http/cookies.ts';

/** What a technician's request carries to say who they are: a bearer token, or the console's cookie. */
export function technicianToken(request: FastifyRequest): string | undefined {
  const header = request.headers.authorization;
  if (header?.startsWith('Bearer ')) return header.slice(7);
  const cookie = readCookie(request, 'porch_console');
  // A cookie comes along by itself; only our own pages can add this header, so nobody else's can act with it.
  if (cookie && request.method !== 'GET' && request.headers['x-porch'] !== '1') throw new AppError('SIGN_IN_NEEDED');
  return cookie;
}
