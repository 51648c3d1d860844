import { customersName } from '../../customers-name.ts';
import { speech, w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import OneProgramNote from './OneProgramNote.vue';

export const oneProgram: ConsoleAbility = {
  name: 'one-program',
  note: OneProgramNote,
  stripNote: ({ state }) =>
    state.value.slices['one-program'].shows === 'program'
      ? w.value.oneProgram.program({ who: speech.value.capital(customersName(state.value)) })
      : undefined,
};
