import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { fact, id } from '../../ability/fields.ts';
import { checkWords } from './shape.ts';

export interface CheckWordsPolicy {
  /** Whether the words must have been compared before mouse and keyboard are asked for. */
  readonly controlNeedsComparedWords: boolean;
}

export const checkWordsRules = defineRules(checkWords, {
  commands: {
    /** The person at the desktop compared the words with what the technician read to them. */
    compareWords: { participantId: id, isSame: z.boolean(), fact },
  },
  actions: { compareWords: 'speak for the computer' },
  decide: {
    compareWords: (_slice, c, me, view) => {
      // Words are those of the keys that show and work now; what was compared with others says nothing of these.
      if (view.holderId !== me.id) return { noted: 'compared words while another computer was shown' };
      return [{ type: 'wordsCompared', by: me.id, participantId: c.participantId, isSame: c.isSame, fact: c.fact }];
    },
  },
  givesBack: { compareWords: (c) => c.isSame },
  holdsBack: (view, slice, { rules, participantId }, policy: CheckWordsPolicy) =>
    rules.isHandsOn && policy.controlNeedsComparedWords && !slice[participantId] && !view.isProven(participantId)
      ? 'WORDS_NOT_COMPARED'
      : undefined,
});
