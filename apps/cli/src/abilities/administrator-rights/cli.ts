import type { CliAbility } from '../cli-ability.ts';

const verbs = () => import('./verbs.ts');

export const administratorRights: CliAbility = {
  name: 'administrator-rights',
  addVerbs({ inSession }) {
    inSession('raise-rights', 'have administrator rights on their computer, for actions of the runbook that need them')
      .argument('<what>', 'what for, as they and the ledger read it')
      .option('--by <way>', 'password: somebody there types it; desk: by its leave, where that is installed')
      .option('--reason <words>', 'why it cannot wait, on a device whose label asks for it')
      .addHelpText(
        'after',
        '\nExamples:\n  porch ask rights && porch raise-rights "replace the label driver"\n  porch raise-rights "replace the label driver" --by desk --json\n\nWithout --by it is a password, and the desk where nobody can type one. A second person of the desk is waited for.\nEnds with 0 once they are raised, 1 when they are not.',
      )
      .action(async (what, options) => (await verbs()).raise(what, options));
    inSession('lower-rights', 'give them back; what runs with them ends')
      .addHelpText('after', '\nExamples:\n  porch lower-rights')
      .action(async (options) => (await verbs()).lower(options));
    inSession('rights', 'whether there are administrator rights now, until when, and how they could be raised')
      .addHelpText('after', '\nExamples:\n  porch rights\n  porch rights --json')
      .action(async (options) => (await verbs()).showNow(options));
  },
};
