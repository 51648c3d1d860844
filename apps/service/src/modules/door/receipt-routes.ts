import { api } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import type { DoorPasses } from '../passes/door-passes.ts';
import type { PolicyOf } from '../sessions/policy-of.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import { serve } from '../../http/serve.ts';
import { passTokenOf } from './bearer.ts';
import { asReadBy, receiptOf } from './receipt.ts';

export interface ReceiptRoutesParts {
  readonly book: SessionBook;
  readonly passes: DoorPasses;
  readonly policyOf: PolicyOf;
}

/** The copy that a customer keeps. */
export const receiptRoutes =
  ({ book, passes, policyOf }: ReceiptRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    serve(app, api.receipt, {}, async ({ query, request }) => {
      const pass = await passes.find(passTokenOf(request), 'copy');
      const session = await book.open(pass.sessionId);
      const reader = {
        id: pass.participantId ?? '',
        part: pass.role === 'doorstep' ? ('doorstep' as const) : ('page' as const),
        proof: pass.proof ?? undefined,
      };
      return receiptOf(asReadBy(session, reader), policyOf(session.state), query.language ?? session.state.language);
    });
  };
