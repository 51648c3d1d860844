import type { CliAbility } from '../cli-ability.ts';

const verbs = () => import('./verbs.ts');

export const restartAndReturn: CliAbility = {
  name: 'restart-and-return',
  addVerbs({ inSession }) {
    inSession('restart-computer', 'restart their computer once they say yes, and come back to it')
      .option(
        '--how <way>',
        'restart; bare: with nothing but what the desktop needs; sign-out: the account alone',
        'restart',
      )
      .option('--sign-in-once', 'sign the account in by itself, once; it needs administrator rights')
      .option('--wait', 'wait until it is back')
      .option('--reason <words>', 'why it cannot wait, on a device whose label asks for it')
      .addHelpText(
        'after',
        '\nExamples:\n  porch ask restart && porch restart-computer --wait\n  porch restart-computer --how bare --json\n\nWhat comes back by itself they say as they are asked. A second person of the desk is waited for.\nEnds with 0 once it goes down (with --wait: once it is back), 1 when it does not.',
      )
      .action(async (options) => (await verbs()).restart(options));
    inSession('restart-check', 'what a restart would meet there now, what comes back by itself, and how far it is')
      .addHelpText('after', '\nExamples:\n  porch restart-check\n  porch restart-check --json')
      .action(async (options) => (await verbs()).check(options));
  },
};
