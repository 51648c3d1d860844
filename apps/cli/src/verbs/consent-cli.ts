import type { Command } from 'commander';

const verbs = () => import('./index.ts');

/** Asking, planning what will be asked, and giving back. */
export function addConsentVerbs({ inSession }: { inSession(name: string, description: string): Command }): void {
  inSession('ask', 'ask for permissions: see, work, draw, copy, paste, give, fetch, keep, or another by its name')
    .argument('<permission...>')
    .option('--wait <seconds>', 'how long to wait for the answer', '100')
    .addHelpText('after', '\nExamples:\n  porch ask see\n  porch ask work --wait 30')
    .action(async (names, options) => (await verbs()).ask(names, options));
  inSession('plan', 'choose what is asked as soon as the customer is in, in one question; nothing: nothing is')
    .argument('[permission...]')
    .addHelpText('after', '\nExamples:\n  porch start MF-201\n  porch plan see work\n  porch invite ticket')
    .action(async (names, options) => (await verbs()).plan(names, options));
  inSession('give-back', 'give a permission back')
    .argument('<permission>')
    .action(async (name, options) => (await verbs()).giveBack(name, options));
}
