import { refuse } from '../../decision.ts';
import type { Deciders } from '../decider.ts';
import { isOver } from '../state.ts';
import type { possibleCommands } from './commands.ts';

const isEqual = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

export const possibleDeciders = {
  'possible/tell': (s, { can, cannot }, me) => {
    if (s.holderId !== me.id) return refuse('NOT_THE_CONSENT_HOLDER');
    if (isOver(s)) return refuse('SESSION_ENDED');
    const isSame = isEqual(me.can, can) && isEqual(me.cannot, cannot);
    return isSame ? [] : [{ type: 'possible/changed', by: me.id, can, cannot }];
  },
} satisfies Deciders<typeof possibleCommands>;
