import { Option } from 'commander';
import type { CliAbility } from '../cli-ability.ts';

const verbs = () => import('./verbs.ts');

export const input: CliAbility = {
  name: 'input',
  addVerbs({ inSession }) {
    inSession('click', 'click at a place of the display')
      .argument('<x>')
      .argument('<y>')
      .addOption(new Option('--button <button>').choices(['left', 'middle', 'right']).default('left'))
      .option('--double', 'twice')
      .action(async (x, y, options) => (await verbs()).click(x, y, options));
    inSession('type', 'type text, in any script')
      .argument('<text...>')
      .action(async (words, options) => (await verbs()).type(words, options));
    inSession('press', 'press keys together')
      .argument('<keys...>', 'for example Ctrl+S or Enter')
      .action(async (keys, options) => (await verbs()).press(keys, options));
    inSession('turn', 'turn the wheel: up, down, left, right')
      .argument('<direction>')
      .option('--steps <n>', 'how far', '3')
      .option('--at <x,y>', 'where')
      .action(async (direction, options) => (await verbs()).turn(direction, options));
  },
};
