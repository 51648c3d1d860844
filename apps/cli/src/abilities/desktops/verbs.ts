import type { RingAnswer } from '@porch/wire';
import { CliError, exitCodes } from '../../exit-codes.ts';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine } from '../../print.ts';
import { show, type CommonOptions } from '../../verbs/common.ts';
import { desk, speech, wrong } from '../../words.ts';
import type { DesktopsNow } from './kept.ts';

const words = desk.desktops;

export async function desktops(options: CommonOptions): Promise<void> {
  const value = (await callKeeper(options.session, { call: 'desktops' })) as DesktopsNow;
  show(value, options, () => {
    if (!value.desktops) return printLine(words.mayNot);
    for (const { desktop, account, name, kind, isInFront, sinceMs, whyNot } of value.desktops) {
      const where = kind === 'no-desktop' ? '' : `, ${isInFront ? words.inFront : words.behind}`;
      const who = name && name !== account ? `${account} (${name})` : account;
      const since = words.since({ when: speech.exactlyHere(sinceMs) });
      printLine(`${desktop}  ${who}  ${words.kinds[kind]}${where}, ${since}`);
      if (whyNot) printLine(`  ${words.whyNot[whyNot]}`);
    }
  });
}

export async function ring(who: string, options: CommonOptions): Promise<void> {
  const { session } = options;
  const { desktops: there } = (await callKeeper(session, { call: 'desktops' })) as DesktopsNow;
  const row = there?.find((one) => one.account === who || one.desktop === who);
  if (there && !row) throw new CliError(wrong.nobodySignedIn({ given: who }), exitCodes.refused);
  const { desktop, account } = row ?? { desktop: who, account: who };
  const how = (await callKeeper(session, { call: 'ringDesktop', desktop })) as RingAnswer;
  const said = words.how[how]({ account });
  show({ desktop, account, how }, options, () => {
    if (how === 'came') printLine(said);
  });
  if (how !== 'came') throw new CliError(said, exitCodes.refused);
}
