import type { CliAbility } from '../cli-ability.ts';

const verbs = () => import('./verbs.ts');

export const systemReport: CliAbility = {
  name: 'system-report',
  addVerbs({ inSession }) {
    inSession(
      'report',
      'read what the computer says of itself, keep it with the session, and say what is other than before',
    )
      .option('--csv', 'print it as CSV')
      .addHelpText('after', '\nExamples:\n  porch ask report && porch report\n  porch report --json > report.json')
      .action(async (options) => (await verbs()).report(options));
  },
};
