import { draftNote, minutesIn, type PolicyFor } from '@porch/core';
import { encodeLedgerRow, EraseBody, LedgerView, SessionPage, SessionSearch, SessionView } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import type { DataSource } from 'typeorm';
import { z } from 'zod';
import { personOf } from '../../auth/guard.ts';
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

const OneSession = z.object({ id: z.uuid() });
const Draft = z.object({ note: z.string(), minutes: z.number() });

/** Sessions of now and before: found, read, verified, erased. */
export const sessionRoutes =
  ({ records, book, desk, lists, policyFor }: SessionRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
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
    app.get(
      '/sessions/find',
      { config: { may: 'list sessions' }, schema: { querystring: SessionSearch, response: { 200: SessionPage } } },
      async (request) => lists.find(personOf(request), request.query),
    );
    app.get(
      '/sessions/:id',
      { config: { may: 'read a session' }, schema: { params: OneSession, response: { 200: SessionView } } },
      async (request) => lists.view((await desk.read(personOf(request), request.params.id)).id),
    );
    app.get(
      '/sessions/:id/draft',
      { config: { may: 'read a session' }, schema: { params: OneSession, response: { 200: Draft } } },
      async (request) => {
        const { entries, state } = await desk.read(personOf(request), request.params.id);
        return { note: draftNote(entries, policyFor().timeZone), minutes: minutesIn(state.phase, Date.now()) };
      },
    );
    app.get(
      '/sessions/:id/ledger',
      { config: { may: 'read a session' }, schema: { params: OneSession, response: { 200: LedgerView } } },
      async (request) => {
        const { id } = await desk.read(personOf(request), request.params.id);
        // From the records, not from memory: this is what gets verified.
        return {
          sessionId: id,
          rows: (await readRows(records.manager, id, 'session')).map(encodeLedgerRow),
          asideRows: (await readRows(records.manager, id, 'aside')).map(encodeLedgerRow),
          asides: [...(await book.open(id)).asides],
        };
      },
    );
    app.post(
      '/sessions/:id/erase',
      {
        config: { may: 'erase a session' },
        schema: { params: OneSession, body: EraseBody, response: { 200: z.object({ erased: z.number() }) } },
      },
      async (request) => ({ erased: await desk.erase(personOf(request), request.params.id, request.body.rule) }),
    );
  };
