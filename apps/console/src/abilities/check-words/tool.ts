import { TechnicianWords } from '@porch/client';
import { shallowRef } from 'vue';
import { defineTool } from '../console-ability.ts';

/** The words that both sides read to each other. */
export const checkWordsTool = defineTool({
  name: 'check-words',
  begin({ connection }) {
    const technician = new TechnicianWords(connection);
    const words = shallowRef<readonly string[]>([]);
    /** How many sets of words there were in this session. */
    const tries = shallowRef(0);
    technician.listeners.on('words', (now) => {
      words.value = now;
      tries.value = technician.tries;
    });
    return { words, tries, askCompare: () => technician.askCompare(), close: () => technician.close() };
  },
});
