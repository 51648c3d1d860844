import { Argument } from 'commander';
import type { CliAbility } from '../cli-ability.ts';
import type { SpeakingNow } from './kept.ts';

export const speaking: CliAbility = {
  name: 'speaking',
  tellStatus: async ({ speaking: now }) => (await import('./verbs.ts')).tellSpeaking(now as SpeakingNow),
  addVerbs({ inSession }) {
    inSession('speak', 'speak with them: by the microphone and the speakers of this computer')
      .addArgument(new Argument('[how]', 'what your microphone is').choices(['open', 'muted', 'off']).default('open'))
      .addHelpText('after', '\nExamples:\n  porch ask speak\n  porch speak\n  porch speak muted\n  porch speak off')
      .action(async (how, options) => (await import('./verbs.ts')).speak(how, options));
  },
};
