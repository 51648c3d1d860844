import { defineRules } from '../../ability/ability-rules.ts';
import { fact } from '../../ability/fields.ts';
import { PasswordCare, passwords } from './shape.ts';

export const passwordsRules = defineRules(passwords, {
  commands: { 'passwords/tellBegun': { care: PasswordCare, fact }, 'passwords/tellEnded': { fact } },
  actions: { 'passwords/tellBegun': 'speak for the computer', 'passwords/tellEnded': 'speak for the computer' },
  decide: {
    'passwords/tellBegun': ({ typing }, c, me, view) => {
      if (view.isOver || view.holderId !== me.id || typing?.care === c.care) return { noted: 'a password was typed' };
      return [{ type: 'passwords/begun', by: me.id, care: c.care, fact: c.fact }];
    },
    'passwords/tellEnded': ({ typing }, c, me, view) => {
      if (view.isOver || typing?.byId !== me.id) return { noted: 'a password was typed' };
      return [{ type: 'passwords/ended', by: me.id, fact: c.fact }];
    },
  },
  givesBack: { 'passwords/tellEnded': () => true },
});
