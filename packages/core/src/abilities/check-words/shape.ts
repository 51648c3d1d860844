import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { fact, id } from '../../ability/fields.ts';

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
  words: (book) => book.checkWords,
  tell: {
    wordsCompared: {
      technician: (e, { words, nameOf }) =>
        words.technician.compared({
          who: nameOf(e.by),
          other: nameOf(e.participantId),
          answer: e.isSame ? 'same' : 'differ',
        }),
      customer: (e, { words, technician }) =>
        words.customer[e.isSame ? 'wordsSame' : 'wordsDiffer']({ who: technician(e.participantId) }),
    },
  },
  inStory: [],
});
