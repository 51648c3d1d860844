import { defineRules } from '../../ability/ability-rules.ts';
import { standing } from './shape.ts';

export const standingRules = defineRules(standing, {
  commands: {},
  actions: {},
  decide: {},
  // Only whom a computer belongs to, or whose work it serves, can let anybody come back to it.
  holdsBack: ({ computer }, _slice, { permission }) =>
    permission === 'keep-device' && (computer === 'shared' || computer === 'others') ? 'NOT_THEIR_COMPUTER' : undefined,
});
