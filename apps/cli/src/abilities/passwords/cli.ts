import type { CliAbility } from '../cli-ability.ts';
import type { PrivateNow } from './kept.ts';

export const passwords: CliAbility = {
  name: 'passwords',
  tellStatus: async ({ private: now }) => (await import('./verbs.ts')).tellPrivate(now as PrivateNow),
  // Nobody asks for it.
  addVerbs: () => undefined,
};
