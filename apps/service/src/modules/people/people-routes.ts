import { EndSignInsBody, SignedIn, SignInBody, SignInView, TechnicianView } from '@porch/wire';
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
      '/me/sign-ins',
      { config: { may: 'see their sign-ins' }, schema: { response: { 200: z.array(SignInView) } } },
      async (request) =>
        (await signIns.of(personOf(request).id)).map((row) => ({
          id: row.id,
          begunAtMs: row.begunAt.getTime(),
          expiresAtMs: row.expiresAt.getTime(),
          address: row.address,
          program: row.program,
          isThisOne: row.id === request.signedIn?.signInId,
        })),
    );
    app.post(
      '/me/sign-ins/end',
      {
        config: { may: 'end a sign-in' },
        schema: { body: EndSignInsBody, response: { 200: z.object({ ended: z.number() }) } },
      },
      async (request) => {
        const { id } = personOf(request);
        const { ids } = request.body;
        const wanted = ids === 'all-others' ? (await signIns.of(id)).map((row) => row.id) : ids;
        const others = ids === 'all-others' ? wanted.filter((one) => one !== request.signedIn?.signInId) : wanted;
        const ended = await signIns.end(id, others);
        endSignIns(ended);
        return { ended: ended.length };
      },
    );
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
