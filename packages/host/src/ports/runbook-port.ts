import type { RunbookInterpreter, RunbookPlatform } from '@porch/core';

/** A script as it is run: with the rights of the person here, and what it is given in its environment. */
export interface ScriptToRun {
  /** Marks everything that it starts. */
  readonly runId: string;
  readonly interpreter: RunbookInterpreter;
  readonly text: string;
  readonly environment: Readonly<Record<string, string>>;
}
export interface ScriptEnded {
  /** Undefined when it was ended from outside. */
  readonly code: number | undefined;
  /** Something that it started could not be ended. */
  readonly mayGoOn: boolean;
}

/** Where what an administrator runs begins. */
export const ADMINISTRATORS_FOLDER = '/root';

/** Why something of the runbook is not done here, in words that technicians read. */
export class RunRefused extends Error {}

/** What this computer runs for the desk. */
export interface RunbookPort {
  readonly platform: RunbookPlatform;
  /** How a script would be run. Rejects with RunRefused when what reads it is not there. */
  howRun(
    script: ScriptToRun,
  ): Promise<{ readonly command: readonly string[]; readonly folder: string; readonly mayGoOn: boolean }>;
  /**
   * Runs it to its end, which comes with `signal` at the latest, and then ends everything that it started. `may` is asked in
   * the very tick that begins. `print` hears what it prints, as text; while it answers false nothing more is read.
   */
  run(
    script: ScriptToRun,
    may: () => boolean,
    print: (text: string) => void,
    signal: AbortSignal,
  ): Promise<ScriptEnded>;
  /** Where a file would go. Rejects with RunRefused outside of the home of the person here. */
  whereTo(target: string): Promise<{ readonly path: string; readonly isThere: boolean }>;
  /** Puts it there in one step, readable by the person here alone. `may` is asked in the very tick that does. */
  put(target: string, text: string, may: () => boolean, signal: AbortSignal): Promise<void>;
}
