import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { fact, id } from '../../ability/fields.ts';
import { german } from './words/de.ts';
import { english } from './words/en.ts';
import { norwegian } from './words/no.ts';

/** By technician's participant: whether the words were the same. Absent: not compared. */
export type CheckWordsSlice = Readonly<Record<string, boolean>>;

/** Words that both sides read to each other: the same ones show that nobody sits between their programs. */
export const checkWords = defineShape({
  name: 'check-words',
  version: 1,
  permissions: {},
  events: { wordsCompared: { participantId: id, isSame: z.boolean(), fact } },
  initial: {} as CheckWordsSlice,
  evolve: { wordsCompared: (s, e) => ({ ...s, [e.participantId]: e.isSame }) },
  tell: {
    wordsCompared: {
      technician: (e, { nameOf }) =>
        `${nameOf(e.by)} compared the check words with ${nameOf(e.participantId)}: ${e.isSame ? 'the same' : 'not the same'}`,
      customer: (e, { technician }) => [e.isSame ? 'wordsSame' : 'wordsDiffer', { who: technician(e.participantId) }],
    },
  },
  words: { en: english, no: norwegian, de: german },
  inStory: [],
});
