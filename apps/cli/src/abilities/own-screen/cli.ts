import type { CliAbility } from '../cli-ability.ts';
import type { OwnScreenNow } from './kept.ts';

export const ownScreen: CliAbility = {
  name: 'own-screen',
  tellStatus: async ({ ownScreen: now }) => (await import('./verbs.ts')).tellOwnScreen(now as OwnScreenNow),
  addVerbs({ inSession }) {
    inSession('show', 'show them a picture in a window of its own: it is followed as the file changes')
      .argument('[picture]', 'a PNG or JPEG file')
      .option('--stop', 'stop showing')
      .addHelpText(
        'after',
        '\nExamples:\n  porch ask show\n  porch show wiring.png\n  porch show --stop\n\nWhole screens, windows and tabs are shown from the console.',
      )
      .action(async (picture, options) => (await import('./verbs.ts')).showPicture(picture, options));
  },
};
