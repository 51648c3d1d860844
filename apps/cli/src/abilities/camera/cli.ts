import { Option } from 'commander';
import type { CliAbility } from '../cli-ability.ts';
import { Turn } from './calls.ts';

export const camera: CliAbility = {
  name: 'camera',
  addVerbs({ inSession }) {
    inSession('camera', 'take a picture through their camera, in full size')
      .requiredOption('-o, --output <file>', 'save it here, as JPEG')
      .option('--light', 'with the light of the camera on, where it has one')
      .addOption(new Option('--turn <way>', 'turn it upright').choices(Turn.options).default('not'))
      .addHelpText(
        'after',
        '\nExamples:\n  porch ask camera\n  porch camera -o plate.jpg\n  porch camera -o plate.jpg --light --turn right',
      )
      .action(async (options) => (await import('./verbs.ts')).camera(options));
  },
};
