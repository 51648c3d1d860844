import { AppError } from '@porch/wire';
import type { Command } from 'commander';
import { pino, type Logger } from 'pino';
import type { Desktop } from '../desktop/desktop.ts';
import { runDoorstep } from '../doorstep.ts';
import type { DoorstepOptions } from '../doorstep-options.ts';
import { withDesktop } from '../open-desktop.ts';
import type { RunGuard } from '../runs/run-guard.ts';
import { undo } from './linux-restart.ts';
import { readNotes } from './return-note.ts';
import { tellSteps } from './return-steps.ts';

interface PlaceOptions {
  readonly display?: string;
  readonly state: string;
  readonly log: string;
}
type OfAccount<P> = (
  options: P,
  desktop: Desktop,
  guard: RunGuard,
  log: Logger,
) => Omit<DoorstepOptions, 'serviceUrl' | 'invitation'>;

/** What the desktop starts after a restart, and the computer before anybody has signed in. */
export function addReturnCommands<P extends PlaceOptions>(
  program: Command,
  withPlace: (command: Command) => Command,
  ofAccount: OfAccount<P>,
): void {
  withPlace(program.command('return'))
    .description('go on with the session that was there before a restart; begins by itself when you sign in')
    .action((options: P) => comeBack(options, ofAccount));
  program
    .command('return-steps', { hidden: true })
    .requiredOption('--state <folder>')
    .action(({ state }: { state: string }) => tellSteps(state));
}

async function comeBack<P extends PlaceOptions>(options: P, ofAccount: OfAccount<P>): Promise<void> {
  const log = pino({ level: options.log, base: null }, pino.destination(2));
  const [note, ...older] = readNotes(options.state);
  for (const one of older) await undo(one, options.state);
  if (!note) return;
  if (note.untilMs < Date.now()) return undo(note, options.state);
  await withDesktop(options, log, async (desktop, signal, guard) => {
    const account = ofAccount(options, desktop, guard, log);
    try {
      await runDoorstep(
        {
          ...{ ...account, serviceUrl: note.serviceUrl, invitation: { token: note.token } },
          back: note,
        },
        signal,
      );
    } catch (error) {
      // The session is over, or wants nobody back: nothing of it stays.
      if (error instanceof AppError) await undo(note, options.state);
      throw error;
    }
  });
}
