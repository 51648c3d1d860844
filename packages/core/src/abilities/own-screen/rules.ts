import { defineRules } from '../../ability/ability-rules.ts';
import { fact, id } from '../../ability/fields.ts';
import { refuse } from '../../decision.ts';
import { OwnSurface, ownScreen } from './shape.ts';

export const ownScreenRules = defineRules(ownScreen, {
  commands: {
    'own-screen/begin': { showingId: id, what: OwnSurface },
    'own-screen/end': { showingId: id },
    /** Whoever holds the consent says that the person there closed it. */
    'own-screen/tellClosed': { showingId: id, fact },
  },
  actions: {
    'own-screen/begin': 'show their own screen',
    'own-screen/end': 'show their own screen',
    'own-screen/tellClosed': 'hold the consent',
  },
  decide: {
    'own-screen/begin': ({ shown }, { showingId, what }, me, view) => {
      if (view.isOver) return refuse('SESSION_ENDED');
      if (!view.holds('show-own-screen', me.id)) return refuse('NOT_GRANTED');
      // Said again, since the answer was lost.
      if (shown?.showingId === showingId) return [];
      return [{ type: 'own-screen/begun', by: me.id, showingId, what }];
    },
    'own-screen/end': ({ shown }, { showingId }, me) => {
      // It ended otherwise meanwhile.
      if (shown?.showingId !== showingId || shown.byId !== me.id) return [];
      return [{ type: 'own-screen/ended', by: me.id, showingId }];
    },
    'own-screen/tellClosed': ({ shown }, { showingId, fact: number }, me, view) => {
      if (view.isOver || shown?.showingId !== showingId) return { noted: 'what a technician showed had been closed' };
      return [{ type: 'own-screen/closed', by: me.id, showingId, fact: number }];
    },
  },
});
