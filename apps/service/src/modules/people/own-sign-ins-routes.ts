import { EndSignInsBody, SignInView } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { personOf } from '../../auth/guard.ts';
import type { SignIns } from './sign-in.ts';

export interface OwnSignInsRoutesParts {
  readonly signIns: SignIns;
  /** Closes whatever was opened with these sign-ins. */
  endSignIns(ids: readonly string[]): void;
}

/** Where a technician is signed in, and ending that. */
export const ownSignInsRoutes =
  ({ signIns, endSignIns }: OwnSignInsRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
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
  };
