import { RestartHow } from '@porch/core';
import { counted } from '@porch/words';
import { CliError, exitCodes } from '../../exit-codes.ts';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine } from '../../print.ts';
import { show, type CommonOptions } from '../../verbs/common.ts';
import { desk, wrong } from '../../words.ts';
import { needLeave } from '../need-leave.ts';
import type { RestartNow } from './kept.ts';

const words = desk.restartAndReturn;

interface RestartOptions extends CommonOptions {
  how: string;
  signInOnce?: true;
  wait?: true;
  reason?: string;
}

function howOf(given: string): RestartHow {
  const read = RestartHow.safeParse(given);
  if (!read.success) throw new CliError(wrong.noRestartHow({ given }), exitCodes.wrongCall);
  return read.data;
}

export async function restart(options: RestartOptions): Promise<void> {
  const { session, reason, json } = options;
  const how = howOf(options.how);
  const signsIn = options.signInOnce === true;
  const { restartId, isCareful } = (await callKeeper(session, { call: 'wantRestart', how, signsIn })) as {
    readonly restartId: string;
    readonly isCareful: boolean;
  };
  if (isCareful)
    await needLeave(
      { call: 'askLeaveForRestart', restartId, how, ...(reason === undefined ? {} : { reason }) },
      options,
    );
  if (!json) printLine(words.isAsked);
  const begun = await callKeeper(session, { call: 'restart', restartId, how, signsIn });
  if (!options.wait) return show(begun, options, () => printLine(words.steps['going-down']));
  if (!json) printLine(words.steps['going-down']);
  const value = (await callKeeper(session, { call: 'awaitReturn' })) as Pick<RestartNow, 'agreed' | 'returns'> & {
    readonly isBack: boolean;
  };
  if (!value.isBack) throw new CliError(wrong.notBackYet, exitCodes.refused);
  show({ restartId, ...value }, options, () => {
    printLine(words.isBack);
    printLine(words.comesBack({ count: value.agreed?.permissions.length ?? 0 }));
  });
}

export async function check(options: CommonOptions): Promise<void> {
  const value = (await callKeeper(options.session, { call: 'restartNow' })) as RestartNow;
  show(value, options, () => {
    if (value.away) printLine(words.steps[value.away.step]);
    if (value.away?.isLate) printLine(words.late);
    if (value.agreed) printLine(words.comesBack({ count: value.agreed.permissions.length }));
    if (!value.outlook) return value.away ? undefined : printLine(words.mayNot);
    const { hits, hows, account } = value.outlook;
    for (const { hit, count = 0 } of hits) printLine(counted(words.hits[hit], count));
    if (!hits.length) printLine(words.meetsNothing);
    for (const how of hows) printLine(`  --how ${how}: ${words.hows[how]}`);
    if (value.outlook.canSignIn) printLine(`  --sign-in-once: ${words.signsIn({ account })}`);
  });
}
