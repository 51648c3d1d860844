import type { CliAbility } from '../cli-ability.ts';

const verbs = () => import('./verbs.ts');

export const picture: CliAbility = {
  name: 'picture',
  addVerbs({ inSession }) {
    inSession('picture', 'save the picture of the display as PNG')
      .requiredOption('-o, --output <file>', 'the file')
      .action(async (options) => (await verbs()).picture(options));
  },
};
