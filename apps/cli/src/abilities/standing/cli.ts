import { Option } from 'commander';
import type { CliAbility } from '../cli-ability.ts';

const devices = () => import('../../verbs/devices.ts');
const wait = () => new Option('--wait <seconds>', 'how long to wait for an answer').default('120');
const passphraseStdin = () => new Option('--passphrase-stdin', 'read the passphrase from standard input');

export const standing: CliAbility = {
  name: 'standing',
  addVerbs({ inSession }) {
    inSession('prove', 'on a remote visit: type the passphrase again')
      .addOption(passphraseStdin())
      .addOption(wait())
      .action(async (options) => (await devices()).prove(options));
    inSession('ask-there', 'on a remote visit: ask whoever sits there')
      .addOption(wait())
      .action(async (options) => (await devices()).askThere(options));
  },
};
