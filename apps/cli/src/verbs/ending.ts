import type { Outcome } from '@porch/core';
import { callKeeper, startKeeper } from '../keeper/call-keeper.ts';
import { printLine } from '../print.ts';
import { type CommonOptions, command, findSession, numberOf, rest, show } from './common.ts';

export const aim = (what: 'look' | 'work', options: CommonOptions): Promise<void> =>
  command(
    { type: 'chooseAim', aim: what },
    options,
    what === 'look'
      ? 'Their page leads with what it can show by itself. Not possible this way: mouse, keyboard, files, coming back.'
      : 'Their page leads with Doorstep.',
  );

export const askToTry = (options: CommonOptions) =>
  command({ type: 'askToTry' }, options, 'The customer is asked to try it.');

export const end = (options: CommonOptions) =>
  command(
    { type: 'endSession', reason: 'technician', why: 'ended from the command line', fact: undefined },
    options,
    'Ended. Log the outcome: porch outcome resolved',
  );

export async function outcome(
  name: Outcome,
  options: CommonOptions & { note?: string; minutes?: string },
): Promise<void> {
  const id = await findSession(options.session);
  await startKeeper(id);
  const draft = await rest().draft(id);
  const note = options.note ?? draft.note;
  const minutes = options.minutes === undefined ? draft.minutes : numberOf(options.minutes, 'Minutes');
  await callKeeper(id, { call: 'command', command: { type: 'logOutcome', outcome: name, note, minutes } });
  show({ outcome: name, note, minutes }, options, () => printLine(`Logged: ${name}, ${minutes} min.\n${note}`));
}

export async function leave(options: CommonOptions): Promise<void> {
  await callKeeper(options.session, { call: 'leave' });
  show({ left: true }, options, () => printLine('Left. The session goes on without you until you open it again.'));
}
