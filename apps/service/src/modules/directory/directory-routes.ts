import { AppError } from '@porch/wire';
import type { FastifyPluginAsync } from 'fastify';
import { clearCookie, readCookie, setCookie } from '../../http/cookies.ts';
import { PERSON_MS, type Directory } from './directory.ts';

/** How long somebody may take at the directory. */
const PENDING_MS = 600_000;
const BACK = '/api/door/sign-in/back';

export interface DirectoryRoutesParts {
  readonly directory: Directory;
  publicUrl(): string;
}

/** A customer signs in at the desk's directory, and comes back to the request page. */
export const directoryRoutes =
  ({ directory, publicUrl }: DirectoryRoutesParts): FastifyPluginAsync =>
  async (app) => {
    app.get('/door/sign-in', async (request, reply) => {
      const { url, pending } = await directory.begin(publicUrl() + BACK);
      // Lax: it must come along when the directory sends the browser back.
      setCookie(request, reply, 'porch_sign_in', pending, { maxAgeMs: PENDING_MS, sameSite: 'lax' });
      return reply.redirect(url);
    });
    app.get('/door/sign-in/back', async (request, reply) => {
      const pending = readCookie(request, 'porch_sign_in');
      clearCookie(request, reply, 'porch_sign_in');
      if (!pending) throw new AppError('DIRECTORY_REFUSED');
      const { sealed } = await directory.finish(new URL(request.url, publicUrl()), pending);
      setCookie(request, reply, 'porch_person', sealed, { maxAgeMs: PERSON_MS });
      return reply.redirect('/help');
    });
  };
