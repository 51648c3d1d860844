import type { CliAbility } from '../cli-ability.ts';

const verbs = () => import('./verbs.ts');

export const prints: CliAbility = {
  name: 'prints',
  addVerbs({ inSession }) {
    inSession('prints', 'the printer that was added at their computer, and what was printed on it')
      .option('--wait <seconds>', 'wait until a document has arrived that was not listed before')
      .addHelpText(
        'after',
        '\nExamples:\n  porch ask prints && porch prints\n  porch prints --wait 120 --json\n\nThe newest is number 1.',
      )
      .action(async (options) => (await verbs()).prints(options));
    inSession('save-print', 'save what was printed there, as a PDF')
      .argument('[number]', 'which one, as `prints` lists them; the newest when none is given')
      .option('-o, --output <file>', 'where; a file that lies there is written over')
      .addHelpText(
        'after',
        '\nExamples:\n  porch save-print\n  porch save-print 2 -o boarding-pass.pdf\n\nEnds with 0 once it is saved, 1 when there is no such document, or it is not here yet.',
      )
      .action(async (number: string | undefined, options) => (await verbs()).savePrint(number, options));
  },
};
