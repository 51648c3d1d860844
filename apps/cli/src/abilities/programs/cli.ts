import { programActs, programListNames } from '@porch/core';
import { Argument } from 'commander';
import type { CliAbility } from '../cli-ability.ts';

const verbs = () => import('./verbs.ts');

export const programs: CliAbility = {
  name: 'programs',
  addVerbs({ inSession }) {
    inSession('look-closer', 'list what runs, is installed or waits for its hour on their computer')
      .addArgument(new Argument('[list]', 'which list').choices(programListNames).default('processes'))
      .option('--match <words>', 'only rows in which every word is found')
      .option('--by <column>', 'order by this column')
      .option('--down', 'the largest first')
      .option('--most <number>', 'so many rows at most', '40')
      .option('--csv', 'print it as CSV')
      .addHelpText(
        'after',
        '\nExamples:\n  porch ask programs && porch look-closer\n  porch look-closer services --match quayprint\n  porch look-closer entries --match scanner --json\n  porch look-closer processes --by memoryBytes --down --most 5',
      )
      .action(async (list, options) => (await verbs()).lookCloser(list, options));
    inSession('end-program', 'end a running program, by its number')
      .argument('<number>', 'as look-closer lists it')
      .option('--at-once', 'without letting it save anything')
      .option('--yes', 'although others end with it')
      .addHelpText(
        'after',
        '\nExamples:\n  porch ask change && porch end-program 4711\n  porch end-program 4711 --at-once --yes\n\nWhat would end with it is said first; without --yes nothing is done then.',
      )
      .action(async (number, options) => (await verbs()).endProgram(number, options));
    inSession('change-service', 'start, stop or restart a service, or say whether it starts by itself')
      .addArgument(new Argument('<act>', 'what to do').choices(programActs.services))
      .argument('<name>', 'the service, as look-closer lists it')
      .option('--own', 'a service that runs for the person alone')
      .option('--reason <words>', 'why it cannot wait, on a device whose label asks for it')
      .option('--yes', 'although others stop with it')
      .addHelpText(
        'after',
        '\nExamples:\n  porch change-service restart quayprint --own\n  porch change-service disable gate-scanner --yes',
      )
      .action(async (act, name, options) => (await verbs()).changeService(act, name, options));
  },
};
