import { draftsOf } from '../../module/drafts-of.ts';
import { draftNote, minutesIn, type PolicyFor } from '@porch/core';
import { api, encodeLedgerRow, SessionSearch, SessionView } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import type { DataSource } from 'typeorm';
import { z } from 'zod';
import { personOf } from '../../auth/guard.ts';
import { serve } from '../../http/serve.ts';
import { readRows } from './ledger-store.ts';
import type { SessionBook } from './session-book.ts';
import type { SessionDesk } from './session-desk.ts';
import type { SessionLists } from './session-lists.ts';

export interface SessionRoutesParts {
  readonly records: DataSource;
  readonly book: SessionBook;
  readonly desk: SessionDesk;
  readonly lists: SessionLists;
  readonly policyFor: PolicyFor;
}

/** Sessions of now and before: found, read, verified, erased. */
export const sessionRoutes =
  ({ records, book, desk, lists, policyFor }: SessionRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    // Programs of before 2026-12 find by words alone, and get no more than the first page.
    app.get(
      '/sessions',
      {
        config: { may: 'list sessions' },
        schema: {
          querystring: z.object({ words: z.string().max(200).default('') }),
          response: { 200: z.array(SessionView) },
        },
      },
      async (request) => (await lists.find(personOf(request), SessionSearch.parse(request.query))).items,
    );
    serve(app, api.sessions, { may: 'list sessions' }, ({ query, request }) => lists.find(personOf(request), query));
    const may = { may: 'read a session' } as const;
    serve(app, api.session, may, async ({ params, request }) =>
      lists.view((await desk.read(personOf(request), params.id)).id),
    );
    serve(app, api.draft, may, async ({ params, request }) => {
      const { entries, state } = await desk.read(personOf(request), params.id);
      return { note: draftNote(entries, draftsOf(policyFor())), minutes: minutesIn(state.phase, Date.now()) };
    });
    serve(app, api.ledger, may, async ({ params, request }) => {
      const { id } = await desk.read(personOf(request), params.id);
      // From the records, not from memory: this is what gets verified.
      return {
        sessionId: id,
        rows: (await readRows(records.manager, id, 'session')).map(encodeLedgerRow),
        asideRows: (await readRows(records.manager, id, 'aside')).map(encodeLedgerRow),
        asides: [...(await book.open(id)).asides],
      };
    });
    serve(app, api.eraseSession, { may: 'erase a session' }, async ({ params, body, request }) => ({
      erased: await desk.erase(personOf(request), params.id, body.rule),
    }));
  };
