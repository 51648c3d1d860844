import { couldDo, type Action } from '@porch/core';
import { AppError } from '@porch/wire';
import type { FastifyInstance, FastifyRequest } from 'fastify';
import type { SignedInPerson, SignIns } from '../modules/people/sign-in.ts';
import type { Technician } from '../modules/people/technician.ts';
import { technicianToken } from './technician-of.ts';

declare module 'fastify' {
  interface FastifyContextConfig {
    /** What of the table of persons, actions and things this route is. */
    may?: Action;
  }
  interface FastifyRequest {
    signedIn?: SignedInPerson;
  }
}

/** What anybody may call beside what says so of itself: signed webhooks, the directory's sign-in, and what the API is. */
const publicPaths: readonly RegExp[] = [
  /^\/api\/door\/sign-in/,
  /^\/api\/webhooks\//,
  /^\/api\/(openapi\.json|health|docs)$/,
  /^\/api\/v1\/openapi\.json$/,
];

/**
 * Each technician's route says which action of the table it is, or the service does not start; and nobody passes who could
 * not do that to anything. What it is done to, the route itself looks at.
 */
export function guardRoutes(app: FastifyInstance, signIns: Pick<SignIns, 'whoHas'>): void {
  app.addHook('onRoute', ({ url, method, config }) => {
    if (!url.startsWith('/api') || config?.isOpen || publicPaths.some((path) => path.test(url))) return;
    if (config?.may === undefined) throw new Error(`${String(method)} ${url} says of no action that it is one`);
  });
  app.addHook('preHandler', async (request) => {
    const action = request.routeOptions.config.may;
    if (action === undefined) return;
    request.signedIn = await signIns.whoHas(technicianToken(request));
    if (!couldDo(request.signedIn.technician, action)) throw new AppError('NOT_YOUR_ROLE');
  });
}

/** Who calls a guarded route. */
export function personOf(request: FastifyRequest): Technician {
  if (!request.signedIn) throw new AppError('SIGN_IN_NEEDED');
  return request.signedIn.technician;
}
