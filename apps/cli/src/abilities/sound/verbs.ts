import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine } from '../../print.ts';
import { type CommonOptions, show } from '../../verbs/common.ts';
import { results } from '../../words.ts';

export async function listen(options: CommonOptions & { off?: boolean }): Promise<void> {
  const value = await callKeeper(options.session, { call: 'listen', isOn: !options.off });
  show(value, options, () => printLine(options.off ? results.listensNoLonger : results.listens));
}

export function tellListening(isListening: boolean): void {
  if (isListening) printLine(results.listens);
}
