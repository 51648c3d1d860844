import { Argument, Option } from 'commander';
import type { CliAbility } from '../cli-ability.ts';

const verbs = () => import('./verbs.ts');

export const drawing: CliAbility = {
  name: 'drawing',
  addVerbs({ inSession }) {
    inSession('draw', 'point and draw on their screen: it lies above all windows, with your name')
      .addArgument(new Argument('<kind>').choices(['point', 'pen', 'marker', 'arrow', 'box', 'text']))
      .argument('<places...>', 'x,y in pixels of the display')
      .option('--text <words>', 'what is written there, for text')
      .option('--fade', 'it goes by itself after a while')
      .option('--display <n>', 'which monitor', '0')
      .addHelpText(
        'after',
        '\nExamples:\n  porch ask draw\n  porch draw box 40,60 340,140\n  porch draw arrow 200,400 60,100 --fade\n  porch draw text 300,200 --text "Press here"',
      )
      .action(async (kind, places, options) => (await verbs()).draw(kind, places, options));
    inSession('unmark', 'take away what was drawn')
      .addOption(
        new Option('--which <marks>', 'your last one, all of yours, or those of everybody')
          .choices(['last', 'all', 'everybodys'])
          .default('all'),
      )
      .action(async (options) => (await verbs()).unmark(options));
  },
};
