import { api } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { pageOfList } from '../../http/paging.ts';
import { serve } from '../../http/serve.ts';
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
    serve(app, api.signIns, { may: 'see their sign-ins' }, async ({ query, request }) => {
      const rows = await signIns.of(personOf(request).id);
      const views = rows.map((row) => ({
        id: row.id,
        begunAtMs: row.begunAt.getTime(),
        expiresAtMs: row.expiresAt.getTime(),
        address: row.address,
        program: row.program,
        isThisOne: row.id === request.signedIn?.signInId,
      }));
      return pageOfList(views, query, 'sign-ins', (one) => [-one.begunAtMs, one.id]);
    });
    serve(app, api.endSignIns, { may: 'end a sign-in' }, async ({ body: { ids }, request }) => {
      const { id } = personOf(request);
      const wanted = ids === 'all-others' ? (await signIns.of(id)).map((row) => row.id) : ids;
      const others = ids === 'all-others' ? wanted.filter((one) => one !== request.signedIn?.signInId) : wanted;
      const ended = await signIns.end(id, others);
      endSignIns(ended);
      return { ended: ended.length };
    });
  };
