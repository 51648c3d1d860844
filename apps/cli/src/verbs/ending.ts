import { MAX_NOTE_CHARACTERS, type Outcome } from '@porch/core';
import { CliError, exitCodes } from '../exit-codes.ts';
import { callKeeper, startKeeper } from '../keeper/call-keeper.ts';
import { printLine } from '../print.ts';
import { desk, results, wrong } from '../words.ts';
import { type CommonOptions, command, findSession, numberOf, rest, show } from './common.ts';

export const aim = (what: 'look' | 'work', options: CommonOptions): Promise<void> =>
  command({ type: 'chooseAim', aim: what }, options, what === 'look' ? results.aimLook : results.aimWork);

export const askToTry = (options: CommonOptions) => command({ type: 'askToTry' }, options, results.tryAsked);

export const end = (options: CommonOptions) =>
  command(
    { type: 'endSession', reason: 'technician', why: 'ended from the command line', fact: undefined },
    options,
    results.ended,
  );

export async function outcome(
  name: Outcome,
  options: CommonOptions & { note?: string; minutes?: string },
): Promise<void> {
  const { length = 0 } = options.note ?? '';
  if (length > MAX_NOTE_CHARACTERS)
    throw new CliError(
      wrong.noteTooLong({ most: String(MAX_NOTE_CHARACTERS), given: String(length) }),
      exitCodes.wrongCall,
    );
  const id = await findSession(options.session);
  await startKeeper(id);
  const draft = await rest().draft(id);
  const note = options.note ?? draft.note;
  const minutes = options.minutes === undefined ? draft.minutes : numberOf(options.minutes, 'Minutes');
  await callKeeper(id, { call: 'command', command: { type: 'logOutcome', outcome: name, note, minutes } });
  show({ outcome: name, note, minutes }, options, () =>
    printLine(`${results.logged({ outcome: desk.common.outcomes[name], minutes })}\n${note}`),
  );
}

export async function leave(options: CommonOptions): Promise<void> {
  await callKeeper(options.session, { call: 'leave' });
  show({ left: true }, options, () => printLine(results.left));
}
