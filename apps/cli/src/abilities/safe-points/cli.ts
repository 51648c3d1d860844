import type { CliAbility } from '../cli-ability.ts';

const verbs = () => import('./verbs.ts');
const several = (value: string, before: string[]) => [...before, value];
const POINT = 'the start of its id or its name, as safe-points lists it';

export const safePoints: CliAbility = {
  name: 'safe-points',
  addVerbs({ inSession }) {
    inSession('make-safe-point', 'save what is about to be changed on their computer')
      .argument('<name>', 'what it is called')
      .option('--file <path>', 'a file or folder of theirs; several times for several', several, [])
      .option('--service <name>', 'a service of theirs, or computer/NAME; several times for several', several, [])
      .option('--packages', 'the list of packages and their versions')
      .addHelpText(
        'after',
        '\nExamples:\n  porch ask safe && porch make-safe-point "before the labels" --file Documents/labels\n  porch make-safe-point "before the driver" --service quayprint --packages --json',
      )
      .action(async (name, options) => (await verbs()).make(name, options));
    inSession('safe-points', 'list the safe points on their computer')
      .option('--csv', 'print it as CSV')
      .addHelpText('after', '\nExamples:\n  porch safe-points\n  porch safe-points --json')
      .action(async (options) => (await verbs()).list(options));
    inSession('compare-safe-point', 'say what is other than it was')
      .argument('<point>', POINT)
      .addHelpText('after', '\nExamples:\n  porch compare-safe-point "before the labels"')
      .action(async (point, options) => (await verbs()).compare(point, options));
    inSession('go-back', 'put everything back as a safe point has it')
      .argument('<point>', POINT)
      .option('--by-rights', 'packages and services of the computer, too, by the administrator rights that you raised')
      .addHelpText(
        'after',
        '\nExamples:\n  porch go-back "before the labels"\n  porch raise-rights "the old driver" && porch go-back "before the driver" --by-rights\n\nWhat is there now is saved first. What could not be put back is said, and the exit code is 1 then.',
      )
      .action(async (point, options) => (await verbs()).goBack(point, options));
    inSession('keep-safe-point', 'ask them to let a safe point stay after the session')
      .argument('<point>', POINT)
      .option('--days <number>', 'for so many days', '7')
      .addHelpText('after', '\nExamples:\n  porch keep-safe-point "before the driver" --days 14')
      .action(async (point, options) => (await verbs()).keep(point, options));
    inSession('drop-safe-point', 'delete a safe point')
      .argument('<point>', POINT)
      .addHelpText('after', '\nExamples:\n  porch drop-safe-point "before the labels"')
      .action(async (point, options) => (await verbs()).drop(point, options));
  },
};
