import { RightsWay } from '@porch/core';
import { CliError, exitCodes } from '../../exit-codes.ts';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine } from '../../print.ts';
import { show, type CommonOptions } from '../../verbs/common.ts';
import { desk, speech, wrong } from '../../words.ts';
import { needLeave } from '../need-leave.ts';
import type { RightsNow } from './kept.ts';

const words = desk.administratorRights;

function wayOf(by: string | undefined): RightsWay | undefined {
  const read = RightsWay.optional().safeParse(by);
  if (!read.success) throw new CliError(wrong.noRightsWay({ given: by ?? '' }), exitCodes.wrongCall);
  return read.data;
}

export async function raise(what: string, options: CommonOptions & { by?: string; reason?: string }): Promise<void> {
  const { session, reason } = options;
  const way = wayOf(options.by);
  const wanted = (await callKeeper(session, { call: 'wantRights', what, ...(way ? { way } : {}) })) as {
    readonly raiseId: string;
    readonly way: RightsWay;
    readonly isCareful: boolean;
  };
  const { raiseId } = wanted;
  const leave = () =>
    needLeave({ call: 'askLeaveForRights', raiseId, what, ...(reason === undefined ? {} : { reason }) }, options);
  if (wanted.isCareful) await leave();
  if (wanted.way === 'password' && !options.json) printLine(words.isTyped);
  const begin = async () =>
    (await callKeeper(session, { call: 'raiseRights', raiseId, what, way: wanted.way })) as {
      readonly untilMs: number;
      readonly needsSecond?: true;
    };
  let value = await begin();
  if (value.needsSecond) {
    await leave();
    value = await begin();
  }
  show(value, options, () => printLine(words.until({ time: speech.exactlyHere(value.untilMs) })));
}

export async function lower(options: CommonOptions): Promise<void> {
  const value = (await callKeeper(options.session, { call: 'lowerRights' })) as { lowered: boolean };
  show(value, options, () => printLine(value.lowered ? words.givenBack : words.notRaised));
}

export async function showNow(options: CommonOptions): Promise<void> {
  const value = (await callKeeper(options.session, { call: 'rightsNow' })) as RightsNow;
  show(value, options, () => {
    printLine(value.raised ? words.until({ time: speech.exactlyHere(value.raised.untilMs) }) : words.notRaised);
    if (!value.ways) return printLine(words.mayNot);
    if (value.ways.password) printLine(words.byPassword);
    if (value.ways.installed) printLine(words.byDesk);
    if (!value.ways.password && !value.ways.installed) printLine(words.noWay);
  });
}
