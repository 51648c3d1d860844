import { defineRules } from '../../ability/ability-rules.ts';
import { fact } from '../../ability/fields.ts';
import { oneProgram, ShownPart } from './shape.ts';

export const oneProgramRules = defineRules(oneProgram, {
  commands: { 'one-program/tellShown': { shows: ShownPart, fact } },
  actions: { 'one-program/tellShown': 'speak for the computer' },
  decide: {
    'one-program/tellShown': (slice, c, me, view) => {
      if (view.isOver || view.holderId !== me.id || slice.shows === c.shows)
        return { noted: 'another part of the screen was chosen' };
      return [{ type: 'one-program/shown', by: me.id, shows: c.shows, fact: c.fact }];
    },
  },
  givesBack: { 'one-program/tellShown': (c) => c.shows !== 'everything' },
});
