import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { fact, id, sha256 } from '../../ability/fields.ts';
import { refuse } from '../../decision.ts';
import { screenshot } from './shape.ts';

export const screenshotRules = defineRules(screenshot, {
  commands: {
    /** The customer's side says that it sent one out. */
    'screenshot/tellTaken': {
      screenshotId: id,
      participantId: id,
      width: z.int().min(1).max(65_535),
      height: z.int().min(1).max(65_535),
      fact,
    },
    /** Whoever has it now says so; what lies with the session says the service itself. */
    'screenshot/tellKept': { screenshotId: id, sha256, fact },
  },
  actions: { 'screenshot/tellTaken': 'speak for the computer', 'screenshot/tellKept': 'keep a screenshot' },
  decide: {
    'screenshot/tellTaken': (slice, c, me, view) => {
      if (view.isOver) return { noted: 'a screenshot had been taken' };
      if (Object.hasOwn(slice, c.screenshotId)) return [];
      const { screenshotId, participantId, width, height } = c;
      return [{ type: 'screenshot/taken', by: me.id, screenshotId, participantId, width, height, fact: c.fact }];
    },
    'screenshot/tellKept': (slice, c, me) => {
      const known = slice[c.screenshotId];
      const isTheirs = known?.takenById === me.id;
      if (!known || (me.side === 'desk' && !isTheirs)) return refuse('NOT_GRANTED');
      const place = me.side === 'desk' ? ('technician' as const) : ('customer' as const);
      const { screenshotId, sha256: hash, fact: number } = c;
      return [{ type: 'screenshot/kept' as const, by: me.id, screenshotId, place, sha256: hash, fact: number }];
    },
  },
});
