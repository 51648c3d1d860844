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
      .option('--kept', 'the last one that lies with the session, without reading another')
      .addHelpText(
        'after',
        '\nExamples:\n  porch ask report && porch report\n  porch report --json > report.json\n  porch report --kept -s MF-201',
      )
      .action(async (options) => (await verbs()).report(options));
  },
};
