import type { FileTransfer } from '@porch/core';
import { Option } from 'commander';
import type { CliAbility } from '../cli-ability.ts';

const verbs = () => import('./verbs.ts');
const output = () => new Option('-o, --output <folder>', 'where to put it').default('.');

export const files: CliAbility = {
  name: 'files',
  addVerbs({ inSession }) {
    inSession('give', 'give files to the customer')
      .argument('<file...>')
      .action(async (files, options) => (await verbs()).give(files, options));
    inSession('fetch', 'fetch a file from the customer, by its path')
      .argument('<path>')
      .addOption(output())
      .action(async (path, options) => (await verbs()).fetchFile(path, options));
    inSession('take', 'take the files that the customer offers')
      .addOption(output())
      .action(async (options) => (await verbs()).take(options));
  },
  tellStatus: async (value) => (await verbs()).tellFiles(value['files'] as readonly FileTransfer[]),
};
