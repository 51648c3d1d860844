import { isAwaited, isOver, refuse, type PolicyFor } from '@porch/core';
import { api } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { serve } from '../../http/serve.ts';
import type { DoorPasses } from '../passes/door-passes.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import { passTokenOf } from './bearer.ts';

export interface RestartStepRoutesParts {
  readonly book: SessionBook;
  readonly passes: DoorPasses;
  readonly policyFor: PolicyFor;
}

/** What a computer says of its way back before anybody has signed in there: it has its pass, and holds no keys yet. */
export const restartStepRoutes =
  ({ book, passes, policyFor }: RestartStepRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    serve(app, api.tellStep, {}, async ({ body, request }) => {
      const pass = await passes.find(passTokenOf(request), 'tellStep');
      const { participantId } = pass;
      await book.act(pass.sessionId, ({ state }) => {
        if (isOver(state)) return refuse('SESSION_ENDED');
        const slice = state.slices['restart-and-return'];
        if (participantId === null || state.holderId !== participantId || !isAwaited(slice))
          return refuse('NOT_THE_CONSENT_HOLDER');
        if (slice.away?.step === body.step) return [];
        const lateAtMs = Math.round(Date.now() + policyFor().restartLateMs);
        return [{ type: 'restart-and-return/step', by: participantId, step: body.step, lateAtMs }];
      });
    });
  };
