import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { fact } from '../../ability/fields.ts';
import { presence } from './shape.ts';

export const presenceRules = defineRules(presence, {
  commands: {
    setPrivate: { isOn: z.boolean(), fact },
    setAway: { isAway: z.boolean(), fact },
    'presence/tellSwitched': { isBehind: z.boolean(), fact },
  },
  actions: {
    setPrivate: 'speak for the customer',
    setAway: 'speak for the computer',
    'presence/tellSwitched': 'speak for the computer',
  },
  decide: {
    setPrivate: (_slice, c, me, view) => {
      if (view.isOver) return { noted: 'a private moment' };
      return [{ type: 'privateMoment', by: me.id, isOn: c.isOn, fact: c.fact }];
    },
    setAway: (_slice, c, me, view) => {
      if (view.isOver) return { noted: c.isAway ? 'nobody was there' : 'somebody was there' };
      return [{ type: 'customerAway', by: me.id, isAway: c.isAway, fact: c.fact }];
    },
    'presence/tellSwitched': (slice, { isBehind, fact: number }, me, view) => {
      if (view.isOver) return { noted: 'another desktop was in front' };
      return slice.isBehind === isBehind ? [] : [{ type: 'presence/switched', by: me.id, isBehind, fact: number }];
    },
  },
  givesBack: {
    setPrivate: (c) => !c.isOn,
    setAway: (c) => !c.isAway,
    'presence/tellSwitched': (c) => !c.isBehind,
  },
});
