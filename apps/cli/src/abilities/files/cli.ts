import type { FileTransfer } from '@porch/core';
import { Option } from 'commander';
import type { CliAbility } from '../cli-ability.ts';

const verbs = () => import('./verbs.ts');
const output = () => new Option('-o, --output <folder>', 'where to put it').default('.');
const ifThere = () =>
  new Option(
    '--if-there <what>',
    'what becomes of a name that is taken here; replace keeps what was there as “(before)”',
  )
    .choices(['keep-both', 'replace', 'skip'])
    .default('keep-both');

export const files: CliAbility = {
  name: 'files',
  addVerbs({ inSession }) {
    inSession('give', 'give files and folders to the customer, all in one question')
      .argument('<file...>')
      .action(async (files, options) => (await verbs()).give(files, options));
    inSession('fetch', 'fetch a file or folder from the customer, by its path')
      .argument('<path>')
      .addOption(output())
      .addOption(ifThere())
      .action(async (path, options) => (await verbs()).fetchFile(path, options));
    inSession('take', 'take the files that the customer offers')
      .addOption(output())
      .addOption(ifThere())
      .action(async (options) => (await verbs()).take(options));
    inSession(
      'names',
      'the names in a folder of the customer’s, as far as they open it; their own folder without a path',
    )
      .argument('[path]')
      .action(async (path, options) => (await verbs()).names(path ?? '', options));
    inSession('let-wait', 'let a file on its way wait')
      .argument('<name>')
      .action(async (name, options) => (await verbs()).setPaused(name, true, options));
    inSession('let-go-on', 'let a file that waits go on')
      .argument('<name>')
      .action(async (name, options) => (await verbs()).setPaused(name, false, options));
    inSession('stop-file', 'stop a file on its way; what came of it is deleted')
      .argument('<name>')
      .action(async (name, options) => (await verbs()).stopFile(name, options));
  },
  tellStatus: async (value) => (await verbs()).tellFiles(value['files'] as readonly FileTransfer[]),
};
