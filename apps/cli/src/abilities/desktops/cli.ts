import type { CliAbility } from '../cli-ability.ts';

const verbs = () => import('./verbs.ts');

export const desktops: CliAbility = {
  name: 'desktops',
  addVerbs({ inSession }) {
    inSession('desktops', 'who is signed in at their computer, and whose desktop is in front')
      .addHelpText('after', '\nExamples:\n  porch ask desktops && porch desktops\n  porch desktops --json')
      .action(async (options) => (await verbs()).desktops(options));
    inSession('ring', 'ask somebody who is signed in there to come in, at their own desktop')
      .argument('<account>', 'whom, as `desktops` lists them; or the number of the desktop')
      .addHelpText(
        'after',
        '\nExamples:\n  porch ring samir && porch change-over yes\n  porch ring samir --json\n\nWaits for their answer, three minutes at most; ending this command takes the question back.\nEnds with 0 when they said yes, 1 when they did not, or nobody could be asked.',
      )
      .action(async (account: string, options) => (await verbs()).ring(account, options));
  },
};
