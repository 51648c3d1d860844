import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine } from '../../print.ts';
import { type CommonOptions, show } from '../../verbs/common.ts';
import { results } from '../../words.ts';
import type { SpeakingNow } from './kept.ts';

export async function speak(how: 'open' | 'muted' | 'off', options: CommonOptions): Promise<void> {
  const value = await callKeeper(options.session, { call: 'speak', how });
  show(value, options, () => printLine(results.microphone[how]));
}

export function tellSpeaking({ microphone, others }: SpeakingNow): void {
  if (microphone === 'off') return;
  // Without one nobody is heard from here, and the others are.
  if (microphone !== 'none') printLine(results.microphone[microphone]);
  for (const { name, microphone: is } of others) printLine(results.others[is]({ who: name ?? results.otherSide }));
}
