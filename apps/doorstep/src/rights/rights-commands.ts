import type { Command } from 'commander';
import { installRights, removeRights } from './install.ts';
import { installedHere } from './installed.ts';
import { runRootPart } from './root-part.ts';

const print = (text: string) => process.stdout.write(`${text}\n`);

function show({ json }: { json?: boolean }): void {
  const installed = installedHere();
  if (json) print(JSON.stringify(installed ?? null));
  else if (!installed) print('No desk may give leave for administrator rights on this computer.');
  else
    print(
      `The desk with this key may give leave for administrator rights here: ${installed.deskKey}\nThis device: ${installed.deviceId}`,
    );
}

/** What the desk's administrators do on a computer beforehand, and how the part that holds rights is started. */
export function addRightsCommands(program: Command): void {
  const rights = program
    .command('rights')
    .description(
      'for administrators: the part that holds administrator rights by leave of a desk, for people who have none',
    )
    .addHelpText(
      'after',
      '\nExamples:\n  sudo doorstep rights install --desk-key 3f0c…   the key is what `porch-admin rights-key` says\n  doorstep rights show --json\n  sudo doorstep rights remove\n\nEnds with 0 when it is done, 2 when it could not be.',
    );
  rights
    .command('install')
    .description('install it; the desk gives leave for single sessions, each with a yes at this computer')
    .requiredOption('--desk-key <hex>', 'the key of the desk')
    .action(async ({ deskKey }: { deskKey: string }) => {
      const { deviceId } = await installRights(deskKey.trim().toLowerCase());
      print(`Installed. This device: ${deviceId}. To undo it: doorstep rights remove`);
    });
  rights
    .command('remove')
    .description('take it away, and leave nothing behind')
    .action(async () => {
      print((await removeRights()) ? 'Removed.' : 'It was not installed.');
    });
  rights
    .command('show', { isDefault: true })
    .description('whose leave counts on this computer')
    .option('--json', 'as JSON')
    .action(show);
  program
    .command('root-part', { hidden: true })
    .option('--installed [connection]')
    .action(async ({ installed }: { installed?: true | string }) => {
      await runRootPart(installed);
    });
}
