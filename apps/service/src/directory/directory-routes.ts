import { AppError } from '@porch/wire';
import type { FastifyPluginAsync } from 'fastify';
import type { Parts } from '../app.ts';
import { PERSON_MS, type Directory } from './directory.ts';

export const PERSON_COOKIE = 'porch_person';
const PENDING_COOKIE = 'porch_sign_in';
const BACK = '/api/door/sign-in/back';

/** A customer signs in at the desk's directory, and comes back to the request page. */
export const directoryRoutes: FastifyPluginAsync<Parts & { directory: Directory }> = async (
  app,
  { directory, publicUrl },
) => {
  app.get('/door/sign-in', { schema: { hide: true } }, async (request, reply) => {
    const { url, pending } = await directory.begin(publicUrl() + BACK);
    // Lax: it must come along when the directory sends the browser back.
    reply.setCookie(PENDING_COOKIE, pending, {
      path: BACK,
      httpOnly: true,
      sameSite: 'lax',
      secure: request.protocol === 'https',
      maxAge: 600,
    });
    return reply.redirect(url);
  });
  app.get('/door/sign-in/back', { schema: { hide: true } }, async (request, reply) => {
    const pending = request.cookies[PENDING_COOKIE];
    reply.clearCookie(PENDING_COOKIE, { path: BACK });
    if (!pending) throw new AppError('DIRECTORY_REFUSED');
    const { sealed } = await directory.finish(new URL(request.url, publicUrl()), pending);
    reply.setCookie(PERSON_COOKIE, sealed, {
      path: '/api/door',
      httpOnly: true,
      sameSite: 'strict',
      secure: request.protocol === 'https',
      maxAge: PERSON_MS / 1000,
    });
    return reply.redirect('/help');
  });
};
