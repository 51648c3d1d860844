import { Option } from 'commander';
import type { LibraryProgram } from './library-program.ts';

const runbook = () => import('./runbook.ts');

/** What the desk prepared to be run: read, approved, brought in and taken out. */
export function addRunbookVerbs({ make, list }: LibraryProgram): void {
  list('runbook', 'actions of the runbook: all, or those that fit some words')
    .argument('[words...]')
    .option('--topic <topic>', 'of this topic')
    .addOption(new Option('--state <state>', 'in this state').choices(['draft', 'reviewed', 'approved']))
    .addHelpText('after', '\nExamples:\n  porch runbook barcode\n  porch runbook --state draft')
    .action(async (words, options) => (await runbook()).runbook(words, options));
  make('action', 'an action of the runbook, whole; or say that it is right, put it into use, take it out')
    .argument('<name>')
    .option('--review', 'a draft of somebody else is right')
    .option('--approve', 'a reviewed one is in use from now on')
    .option('--withdraw', 'nobody can run it any longer')
    .addHelpText('after', '\nExamples:\n  porch action barcode-height\n  porch action barcode-height --review')
    .action(async (name, options) => (await runbook()).action(name, options));
  list('pack-in', 'bring the actions of a pack in from a folder, as drafts')
    .argument('<folder>')
    .addOption(new Option('--whose <whose>', 'whose they are').choices(['personal', 'team', 'desk']).default('desk'))
    .addHelpText('after', '\nExample:\n  porch pack-in quay-printers --whose team')
    .action(async (folder, options) => (await runbook()).packIn(folder, options));
  make('pack-out', 'save all actions in use into a folder, a file each, and what signs them')
    .argument('<folder>')
    .addHelpText(
      'after',
      '\nExample:\n  porch pack-out pack && cd pack && sha256sum -c pack.sums\n  openssl pkeyutl -verify -rawin -pubin -inkey pack.pem -in pack.sums -sigfile <(base64 -d pack.sig)',
    )
    .action(async (folder, options) => (await runbook()).packOut(folder, options));
}
