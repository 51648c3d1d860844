import type { Command } from 'commander';

const handover = () => import('./handover.ts');
const careful = () => import('./second-yes.ts');
const ONE = 'the start of its id; the oldest without one';

interface Program {
  make(name: string, description: string): Command;
  list(name: string, description: string): Command;
}

/** What a colleague is asked: to take a session over, to say yes as the second person, to look at what was done. */
export function addAskedVerbs({ make, list }: Program): void {
  make('take-over', 'accept a handover')
    .argument('[handover]')
    .action(async (given, options) => (await handover()).answerHandover(given, 'accept', options));
  make('decline', 'decline a handover; it goes back')
    .argument('[handover]')
    .action(async (given, options) => (await handover()).answerHandover(given, 'decline', options));
  list('careful-acts', 'what waits for a second person’s yes, as on a careful device, or for a lead to look at it')
    .addHelpText('after', '\nExamples:\n  porch careful-acts\n  porch careful-acts --json')
    .action(async (options) => (await careful()).carefulActs(options));
  make('second-yes', 'say yes or no, as the second person, to what a colleague is about to do')
    .argument('[act]', ONE)
    .option('--refuse', 'say no')
    .addHelpText('after', '\nExamples:\n  porch second-yes\n  porch second-yes 4f1c9a2e --refuse')
    .action(async (given, options) => (await careful()).secondYes(given, !options.refuse, options));
  make('looked-at', 'say that you looked at what was done outside of its hours')
    .argument('[act]', ONE)
    .addHelpText('after', '\nExamples:\n  porch looked-at 4f1c9a2e')
    .action(async (given, options) => (await careful()).lookedAt(given, options));
}
