import type { CliAbility } from '../cli-ability.ts';
import type { HandsOffNow } from './kept.ts';

export const handsOff: CliAbility = {
  name: 'hands-off',
  tellStatus: async ({ handsOff: now }) => (await import('./verbs.ts')).tellHandsOff(now as HandsOffNow),
  addVerbs({ inSession }) {
    inSession('step-back', 'ask them to leave mouse and keyboard alone for a moment')
      .option('--over', 'say that they can use them again')
      .addHelpText(
        'after',
        '\nExamples:\n  porch step-back\n  porch step-back --over\n\nTo do more than ask, for five minutes at most:\n  porch ask block\n  porch ask cover\n  porch give-back block',
      )
      .action(async (options) => (await import('./verbs.ts')).stepBack(options));
  },
};
