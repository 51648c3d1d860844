import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine } from '../../print.ts';
import { type CommonOptions, show } from '../../verbs/common.ts';
import { results } from '../../words.ts';
import type { HandsOffNow } from './kept.ts';

export async function stepBack(options: CommonOptions & { over?: boolean }): Promise<void> {
  const isAsked = !options.over;
  const value = await callKeeper(options.session, { call: 'stepBack', isAsked });
  show(value, options, () => printLine(results.stepBack[isAsked ? 'asked' : 'over']));
}

export function tellHandsOff({ isStepBackAsked, resting }: HandsOffNow): void {
  if (isStepBackAsked) printLine(results.stepBack.asked);
  for (const { what, left } of resting) printLine(results.resting[what]({ left }));
}
