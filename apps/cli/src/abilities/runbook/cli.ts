import type { CliAbility } from '../cli-ability.ts';

const verbs = () => import('./verbs.ts');
const collect = (value: string, before: readonly string[]) => [...before, value];

export const runbook: CliAbility = {
  name: 'runbook',
  addVerbs({ inSession }) {
    inSession('run-action', 'run an action of the runbook on their computer, and print what it prints')
      .argument('<name>', 'as porch runbook lists it')
      .option('--give <NAME=VALUE>', 'a value that it asks for; once for each', collect, [] as readonly string[])
      .option('--secret-stdin', 'read what is secret from standard input, not from the terminal')
      .option('--only-look', 'say exactly what would be done, and do nothing')
      .option('--reason <words>', 'why it cannot wait, on a device whose label asks for it')
      .addHelpText(
        'after',
        '\nExamples:\n  porch ask runbook && porch run-action what-fills-the-disk\n  porch run-action barcode-height --give HEIGHT=24 --only-look\n  porch run-action restart-print-queue --give QUEUE=quayprint --json',
      )
      .action(async (name, options) => (await verbs()).runAction(name, options));
    inSession('stop-action', 'stop what runs on their computer, with all that it started')
      .addHelpText('after', '\nExample:\n  porch stop-action')
      .action(async (options) => (await verbs()).stopAction(options));
    inSession('tick-step', 'say that a step of an instruction is done')
      .argument('<name>', 'as porch runbook lists it')
      .argument('<step>', 'which, from 1 on')
      .option('--not-after-all', 'it is not done after all')
      .addHelpText('after', '\nExample:\n  porch tick-step paper-path-check 1')
      .action(async (name, step, options) => (await verbs()).tickStep(name, step, options));
  },
};
