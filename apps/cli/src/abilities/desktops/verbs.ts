import { CliError, exitCodes } from '../../exit-codes.ts';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine } from '../../print.ts';
import { show, type CommonOptions } from '../../verbs/common.ts';
import { desk, speech, wrong } from '../../words.ts';
import type { DesktopsNow, Rung } from './kept.ts';

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
  const { desktops: there } = (await callKeeper(options.session, { call: 'desktops' })) as DesktopsNow;
  const isThere = !there || there.some(({ account, desktop }) => account === who || desktop === who);
  if (!isThere) throw new CliError(wrong.nobodySignedIn({ given: who }), exitCodes.refused);
  const value = (await callKeeper(options.session, { call: 'ringDesktop', who })) as Rung;
  const said = words.how[value.how]({ account: value.account });
  if (value.how === 'came') return show(value, options, () => printLine(said));
  if (options.json) show(value, options, () => undefined);
  throw new CliError(said, exitCodes.refused);
}
