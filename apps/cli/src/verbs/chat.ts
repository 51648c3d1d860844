import { callKeeper } from '../keeper/call-keeper.ts';
import { printLine } from '../print.ts';
import { results } from '../words.ts';
import { type CommonOptions, command, show } from './common.ts';

export const say = (words: string[], options: CommonOptions) =>
  command({ type: 'sendChat', messageId: crypto.randomUUID(), text: words.join(' ') }, options, results.said);

export async function aside(words: string[], options: CommonOptions): Promise<void> {
  await callKeeper(options.session, { call: 'aside', text: words.join(' ') });
  show({ done: true }, options, () => printLine(results.saidAside));
}
