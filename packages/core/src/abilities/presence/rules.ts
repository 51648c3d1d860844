import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { fact } from '../../ability/fields.ts';
import { refuse } from '../../decision.ts';
import { isCustomerRole } from '../../people/role.ts';
import { presence } from './shape.ts';

export const presenceRules = defineRules(presence, {
  commands: { setPrivate: { isOn: z.boolean(), fact }, setAway: { isAway: z.boolean(), fact } },
  decide: {
    setPrivate: (_slice, c, me, view) => {
      if (!isCustomerRole(me.role)) return refuse('WRONG_ROLE');
      if (view.isOver) return { noted: 'a private moment' };
      return [{ type: 'privateMoment', by: me.id, isOn: c.isOn, fact: c.fact }];
    },
    setAway: (_slice, c, me, view) => {
      if (me.role !== 'doorstep') return refuse('NOT_THE_CONSENT_HOLDER');
      if (view.isOver) return { noted: c.isAway ? 'nobody was there' : 'somebody was there' };
      return [{ type: 'customerAway', by: me.id, isAway: c.isAway, fact: c.fact }];
    },
  },
  givesBack: { setPrivate: (c) => !c.isOn, setAway: (c) => !c.isAway },
});
