import type { ShownPart } from '@porch/core';
import type { CliAbility } from '../cli-ability.ts';

export const oneProgram: CliAbility = {
  name: 'one-program',
  tellStatus: async ({ shows }) => (await import('./verbs.ts')).tellShown(shows as ShownPart),
  // It is the customer's to choose.
  addVerbs: () => undefined,
};
