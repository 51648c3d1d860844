import { Option } from 'commander';
import type { CliAbility } from '../cli-ability.ts';

const verbs = () => import('./verbs.ts');

export const clipboard: CliAbility = {
  name: 'clipboard',
  addVerbs({ inSession }) {
    inSession('copy-from', 'read what was copied there last, since that was allowed')
      .option('-o, --output <file>', 'write it here; without it text is printed')
      .addOption(new Option('--kind <kind>', 'where both could be had').choices(['text', 'image']))
      .option('--wait <seconds>', 'wait so long for something to be copied', '0')
      .addHelpText(
        'after',
        '\nExamples:\n  porch ask copy\n  porch copy-from\n  porch copy-from --kind image -o there.png --wait 30',
      )
      .action(async (options) => (await verbs()).copyFrom(options));
    inSession('copy-to', 'put something onto their clipboard: the words, a PNG, or what comes in')
      .argument('[words...]', 'the text; without any, what standard input gives')
      .option('--image <file>', 'a PNG instead')
      .addHelpText(
        'after',
        '\nExamples:\n  porch ask paste\n  porch copy-to "lpadmin -x quayprint"\n  porch copy-to < settings.conf\n  porch press Ctrl+V',
      )
      .action(async (words, options) => (await verbs()).copyTo(words, options));
  },
};
