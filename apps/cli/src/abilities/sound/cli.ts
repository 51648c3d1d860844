import type { CliAbility } from '../cli-ability.ts';

export const sound: CliAbility = {
  name: 'sound',
  tellStatus: async ({ isListening }) => (await import('./verbs.ts')).tellListening(isListening === true),
  addVerbs({ inSession }) {
    inSession('listen', 'hear what their computer plays, on the speakers of this one')
      .option('--off', 'listen no longer')
      .addHelpText('after', '\nExamples:\n  porch ask hear\n  porch listen\n  porch listen --off')
      .action(async (options) => (await import('./verbs.ts')).listen(options));
  },
};
