import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { count, fact, id } from '../../ability/fields.ts';
import { RunOutcome } from './action.ts';
import { MAX_SAID_CHARACTERS, mayEnd, runbook } from './shape.ts';

export const runbookRules = defineRules(runbook, {
  commands: {
    /** The customer's side says that it begins what was chosen. */
    'runbook/tellBegun': { runId: id, participantId: id, given: z.string().max(800), fact },
    'runbook/tellSaid': { runId: id, text: z.string().max(MAX_SAID_CHARACTERS), fact },
    'runbook/tellEnded': {
      ...{ runId: id, outcome: RunOutcome, code: z.int().optional(), unsaid: count, fact },
      mayGoOn: z.literal(true).optional(),
    },
    /** A technician did a step of an instruction, or not after all. */
    'runbook/tick': { runId: id, step: count, isDone: z.boolean() },
  },
  actions: {
    'runbook/tellBegun': 'speak for the computer',
    'runbook/tellSaid': 'speak for the computer',
    'runbook/tellEnded': 'speak for the computer',
    'runbook/tick': 'ask for a permission',
  },
  decide: {
    'runbook/tellBegun': (slice, { runId, participantId, given, fact: number }, me, view) => {
      if (view.isOver) return { noted: 'an action had been run' };
      if (slice[runId]?.standing !== 'chosen') return [];
      return [
        {
          ...{ type: 'runbook/begun', by: me.id, runId, participantId, fact: number },
          ...(given ? { personal: { given } } : {}),
        },
      ];
    },
    'runbook/tellSaid': (slice, { runId, text, fact: number }, me, view) => {
      if (view.isOver) return { noted: 'an action had been run' };
      if (!mayEnd(slice[runId])) return [];
      return [{ type: 'runbook/said', by: me.id, runId, fact: number, personal: { text } }];
    },
    'runbook/tellEnded': (slice, { runId, outcome, code, unsaid, mayGoOn, fact: number }, me, view) => {
      if (view.isOver) return { noted: 'an action had been run' };
      if (!mayEnd(slice[runId])) return [];
      return [{ type: 'runbook/ended', by: me.id, runId, outcome, code, unsaid, mayGoOn, fact: number }];
    },
    'runbook/tick': (slice, { runId, step, isDone }, me, view) => {
      if (view.isOver) return { refused: 'SESSION_ENDED' };
      const run = slice[runId];
      if (run?.kind !== 'instruction' || step >= run.steps) return { refused: 'STEP_UNKNOWN' };
      return run.ticked.includes(step) === isDone ? [] : [{ type: 'runbook/ticked', by: me.id, runId, step, isDone }];
    },
  },
});
