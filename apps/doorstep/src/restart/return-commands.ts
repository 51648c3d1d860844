import { AppError } from '@porch/wire';
import type { Command } from 'commander';
import { passesBy } from '../come-in.ts';
import type { DoorstepOptions } from '../doorstep-options.ts';
import { Pieces } from '../files/pieces.ts';
import { dropOlder, undo } from './linux-restart.ts';
import { readNotes } from './return-note.ts';
import { tellSteps } from './return-steps.ts';

/** Which session, and how one comes in. */
export type Stay = Pick<DoorstepOptions, 'serviceUrl' | 'invitation' | 'back' | 'rung' | 'isSignInScreen'>;

interface Places {
  readonly state: string;
  readonly downloads: string;
}

/** What the desktop starts after a restart, and the computer before anybody has signed in. */
export function addReturnCommands<P extends Places>(
  program: Command,
  withPlace: (command: Command) => Command,
  stay: (options: P, from: Stay) => Promise<void>,
): void {
  withPlace(program.command('return'))
    .description('go on with the session that was there before a restart; begins by itself when you sign in')
    .action((options: P) => comeBack(options, stay));
  program
    .command('return-steps', { hidden: true })
    .requiredOption('--state <folder>')
    .action(({ state }: { state: string }) => tellSteps(state));
}

async function comeBack<P extends Places>(options: P, stay: (options: P, from: Stay) => Promise<void>): Promise<void> {
  const note = dropOlder(readNotes(options.state), options.state);
  if (!note) return;
  const leaveNothing = async () => {
    await undo(note, options.state);
    await new Pieces(options.downloads, note.sessionId).forget();
  };
  if (note.untilMs < Date.now()) return leaveNothing();
  try {
    await stay(options, { serviceUrl: note.serviceUrl, invitation: { token: note.token }, back: note });
  } catch (error) {
    // The session is over, or wants nobody back: nothing of it stays.
    if (error instanceof AppError && !passesBy(error)) await leaveNothing();
    throw error;
  }
}
