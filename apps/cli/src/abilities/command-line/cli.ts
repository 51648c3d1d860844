import type { CliAbility } from '../cli-ability.ts';

const verbs = () => import('./verbs.ts');

export const commandLine: CliAbility = {
  name: 'command-line',
  addVerbs({ inSession }) {
    inSession('shell', 'a command line on their computer, here in this terminal, in their sight')
      .argument('[folder]', 'where it begins, from their home on', '')
      .option('--reason <words>', 'why it cannot wait, on a device whose label asks for it')
      .addHelpText(
        'after',
        '\nExamples:\n  porch ask command-line && porch shell\n  porch shell ~/Documents/Manifests\n  echo "lpstat -t" | porch shell --json\n\nIt ends with exit, or here with Ctrl-Q pressed three times. What comes from a pipe is typed there, then it ends.\nEnds with 0 when it ended well there, 1 when it did not or was ended by others.',
      )
      .action(async (folder, options) => (await verbs()).shell(folder, options));
  },
};
