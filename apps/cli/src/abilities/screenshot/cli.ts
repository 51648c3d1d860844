import type { CliAbility } from '../cli-ability.ts';

const verbs = () => import('./verbs.ts');

export const screenshot: CliAbility = {
  name: 'screenshot',
  addVerbs({ inSession }) {
    inSession('screenshot', 'have a screenshot taken at the source, blank and mark it, and keep it')
      .option('-o, --output <file>', 'save it here, as PNG')
      .option('--keep', 'put it into the records of the session')
      .option('--give', 'give it to the customer')
      .option('--display <n>', 'which monitor; it has to be shown', '0')
      .option('--blank <x,y,width,height...>', 'black out a box')
      .option('--mark <x,y,width,height...>', 'draw a box around something')
      .addHelpText(
        'after',
        '\nExamples:\n  porch ask screenshot\n  porch screenshot -o fault.png --mark 40,60,300,80\n  porch screenshot --keep --give --blank 0,0,500,120',
      )
      .action(async (options) => (await verbs()).screenshot(options));
  },
};
