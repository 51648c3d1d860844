import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { fact, id } from '../../ability/fields.ts';
import { agreedNames, NotRestarted, restartAndReturn, RestartHow } from './shape.ts';

const NOTED = 'the computer had been restarted';

const MINUTE_MS = 60_000;

export interface RestartPolicy {
  /** A computer of which nothing was heard for so long needs somebody who looks at it. */
  readonly restartLateMs: number;
}

export const restartAndReturnRules = defineRules(restartAndReturn, {
  commands: {
    /** The customer's side says what comes back, that it goes down, that it does not, and that it is back. */
    'restart-and-return/tellAgreed': { participantId: id, permissions: agreedNames, fact },
    'restart-and-return/tellBegun': {
      ...{ restartId: id, participantId: id.optional(), how: RestartHow, signsIn: z.literal(true).optional(), fact },
    },
    'restart-and-return/tellNotBegun': { restartId: id, participantId: id, why: NotRestarted, fact },
    'restart-and-return/tellReturned': { permissions: agreedNames, fact },
  },
  actions: {
    'restart-and-return/tellAgreed': 'speak for the computer',
    'restart-and-return/tellBegun': 'speak for the computer',
    'restart-and-return/tellNotBegun': 'speak for the computer',
    'restart-and-return/tellReturned': 'speak for the computer',
  },
  decide: {
    'restart-and-return/tellAgreed': (_s, { participantId, permissions, fact: number }, me, view) => {
      if (view.isOver || view.holderId !== me.id) return { noted: NOTED };
      return [{ type: 'restart-and-return/agreed', by: me.id, participantId, permissions, fact: number }];
    },
    'restart-and-return/tellBegun': (s, { type: _type, ...told }, me, view, policy: RestartPolicy) => {
      if (view.isOver || view.holderId !== me.id) return { noted: NOTED };
      if (s.away?.restartId === told.restartId) return [];
      return [
        {
          type: 'restart-and-return/begun',
          by: me.id,
          ...told,
          lateAtMs: Math.round(view.nowMs + policy.restartLateMs),
        },
      ];
    },
    'restart-and-return/tellNotBegun': (_s, { type: _type, ...told }, me, view) => {
      if (view.isOver) return { noted: NOTED };
      return [{ type: 'restart-and-return/notBegun', by: me.id, ...told }];
    },
    'restart-and-return/tellReturned': (_s, { permissions, fact: number }, me, view) => {
      if (view.isOver || view.holderId !== me.id) return { noted: NOTED };
      return [{ type: 'restart-and-return/returned', by: me.id, permissions, fact: number }];
    },
  },
  // Older than what was told since, "it is back" would call off what waits for it.
  givesBack: { 'restart-and-return/tellReturned': () => true },
  nextMs: ({ away }) => (away && !away.isLate ? away.lateAtMs : undefined),
  timePassed: ({ away }, nowMs) =>
    away && !away.isLate && nowMs >= away.lateAtMs
      ? [
          {
            type: 'restart-and-return/late',
            by: 'service',
            minutes: Math.max(1, Math.round((nowMs - away.sinceMs) / MINUTE_MS)),
          },
        ]
      : [],
});
