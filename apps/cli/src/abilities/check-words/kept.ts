import { TechnicianWords } from '@porch/client';
import { areWordsSame } from '@porch/core';
import { defineKept } from '../cli-ability.ts';

export const keptCheckWords = defineKept({
  name: 'check-words',
  calls: {},
  begin({ connection }) {
    const technician = new TechnicianWords(connection);
    return {
      status: () => ({
        words: technician.words,
        areWordsCompared: areWordsSame(connection.state, connection.participantId),
      }),
      close: () => technician.close(),
    };
  },
  answer: {},
});
