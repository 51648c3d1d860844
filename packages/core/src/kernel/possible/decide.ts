import { refuse } from '../../decision.ts';
import type { Deciders } from '../decider.ts';
import { isOver } from '../state.ts';
import type { possibleCommands } from './commands.ts';

export const possibleDeciders = {
  'possible/tell': (s, { can, cannot }, me) => {
    if (s.holderId !== me.id) return refuse('NOT_THE_CONSENT_HOLDER');
    if (isOver(s)) return refuse('SESSION_ENDED');
    return [{ type: 'possible/changed', by: me.id, can, cannot }];
  },
} satisfies Deciders<typeof possibleCommands>;
