import { api, type TechnicianView } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { technicianToken } from '../../auth/technician-of.ts';
import { pageOfList } from '../../http/paging.ts';
import { serve } from '../../http/serve.ts';
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
  const viewOf = (t: Technician): TechnicianView => ({
    id: t.id,
    name: t.name,
    email: t.email,
    team: t.team,
    role: t.role,
    isPresent: consoles.has(t.id),
  });
  return async (app) => {
    serve(app, api.signIn, {}, async ({ body: { email, password, keep, work }, request, reply }) => {
      const { technician, token, expiresAtMs } = await signIns.signIn(email, password, {
        address: request.ip,
        program: String(request.headers['user-agent'] ?? ''),
        work,
      });
      if (keep === 'token') return { technician: viewOf(technician), token, expiresAtMs };
      setCookie(request, reply, 'porch_console', token, { maxAgeMs: SIGN_IN_MS });
      return { technician: viewOf(technician), expiresAtMs };
    });
    serve(app, api.signOut, {}, async ({ request, reply }) => {
      const ended = await signIns.signOut(technicianToken(request));
      if (ended) endSignIns([ended]);
      clearCookie(request, reply, 'porch_console');
    });
    serve(app, api.me, { may: 'see the porch' }, ({ request }) => viewOf(personOf(request)));
    serve(app, api.colleagues, { may: 'see colleagues' }, ({ query }) => {
      const { team, role, present } = query;
      const all = [...technicians.values()].map(viewOf);
      const wanted = all.filter(
        (t) =>
          (team === undefined || t.team === team) &&
          (role === undefined || t.role === role) &&
          (present === undefined || t.isPresent === (present === 'yes')),
      );
      return pageOfList(wanted, query, 'technicians', (t) => [t.name, t.id]);
    });
  };
};
