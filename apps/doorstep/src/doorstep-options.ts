import type { Logger } from 'pino';
import type { DoorView } from '@porch/wire';
import type { ComingIn } from './come-in.ts';
import type { Desktop } from './desktop/desktop.ts';
import type { Standing, StandingStore } from './device/standing-store.ts';
import type { ReturnNote } from './restart/return-note.ts';
import type { LeftGuard } from './left-guard.ts';

export interface DoorstepOptions {
  readonly serviceUrl: string;
  readonly invitation: ComingIn;
  /** A visit to this device: its standing consent is in force here. */
  readonly visit?: { readonly store: StandingStore; readonly standing: Standing; onBegun(): void };
  /** Somebody rang at this desktop: whether its person comes in, asked before anything of theirs is told. */
  readonly rung?: (door: DoorView, desktop: Desktop, signal: AbortSignal) => Promise<boolean>;
  /** This is the screen at which people sign in, and nobody is: it is seen and worked, and nothing else is done there. */
  readonly isSignInScreen?: boolean;
  /** It went down with its computer, and this is what it left to come back by. */
  readonly back?: ReturnNote;
  /** With which it is started again, for a return. */
  readonly startOptions: readonly string[];
  /** Where a standing consent that is made in this session goes; without it none can be made. */
  readonly keepIn?: { readonly store: StandingStore; onKept(): void; onDropped(): void };
  /** The host that this program's publisher made it for, if they named one. */
  readonly madeFor?: string | undefined;
  readonly desktop: Desktop;
  /** Where the sound server is looked for. */
  readonly soundEnv?: NodeJS.ProcessEnv;
  /** Where devices of cameras are looked for. */
  readonly cameras?: string;
  readonly stateFolder: string;
  /** Ends what runs for the desk when this process dies. */
  readonly guard: LeftGuard;
  readonly home: string;
  readonly downloads: string;
  readonly log: Logger;
}
