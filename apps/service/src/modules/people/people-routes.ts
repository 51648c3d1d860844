import { SignedIn, SignInBody, TechnicianView } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { personOf } from '../../auth/guard.ts';
import { technicianToken } from '../../auth/technician-of.ts';
import { clearCookie, setCookie } from '../../http/cookies.ts';
import type { OpenConsoles } from './open-consoles.ts';
import { SIGN_IN_MS, type SignIns } from './sign-in.ts';
import type { Technician, Technicians } from './technician.ts';

export interface PeopleRoutesParts {
  readonly signIns: SignIns;
  readonly technicians: Technicians;
  readonly consoles: OpenConsoles;
  /** Closes whatever was opened with these sign-ins. */
  endSignIns(ids: readonly string[]): void;
}

/** Signing in and out, and who works here. */
export const peopleRoutes = ({
  signIns,
  technicians,
  consoles,
  endSignIns,
}: PeopleRoutesParts): FastifyPluginAsyncZod => {
  const viewOf = (t: Technician): z.infer<typeof TechnicianView> => ({
    id: t.id,
    name: t.name,
    email: t.email,
    team: t.team,
    role: t.role,
    isPresent: consoles.has(t.id),
  });
  return async (app) => {
    app.post('/sign-in', { schema: { body: SignInBody, response: { 200: SignedIn } } }, async (request, reply) => {
      const { email, password, keep, work } = request.body;
      const { technician, token, expiresAtMs } = await signIns.signIn(email, password, {
        address: request.ip,
        program: String(request.headers['user-agent'] ?? ''),
        work,
      });
      if (keep === 'token') return { technician: viewOf(technician), token, expiresAtMs };
      setCookie(request, reply, 'porch_console', token, { maxAgeMs: SIGN_IN_MS });
      return { technician: viewOf(technician), expiresAtMs };
    });
    app.post('/sign-out', { schema: { response: { 200: z.object({}) } } }, async (request, reply) => {
      const ended = await signIns.signOut(technicianToken(request));
      if (ended) endSignIns([ended]);
      clearCookie(request, reply, 'porch_console');
      return {};
    });
    app.get(
      '/me',
      { config: { may: 'see the porch' }, schema: { response: { 200: TechnicianView } } },
      async (request) => viewOf(personOf(request)),
    );
    app.get(
      '/technicians',
      { config: { may: 'see colleagues' }, schema: { response: { 200: z.array(TechnicianView) } } },
      async () => [...technicians.values()].map(viewOf),
    );
  };
};
