import type { ProgramAct, RightsBack, RightsLeave, RunbookValues } from '@porch/core';
import type { ActEnded } from './programs-port.ts';
import type { ScriptEnded } from './runbook-port.ts';

/** How rights can be raised at this computer. */
export interface RightsPossible {
  readonly password: boolean;
  /** Where the part that holds rights is installed. */
  readonly installed?: { readonly deviceId: string; readonly deskKey: string };
}

/** An action of the runbook as the part that holds rights takes it: whole, so that it can look at it itself. */
export interface RaisedOrder {
  readonly runId: string;
  /** The action as text. */
  readonly text: string;
  readonly values: RunbookValues;
  /** The desk's signature of it, and the technician's with its values. */
  readonly warrant?: string | undefined;
  readonly signature?: string | undefined;
}

/** What is done to a service of the computer. */
export interface RaisedService {
  readonly actId: string;
  readonly act: ProgramAct;
  /** As the list of services names it. */
  readonly target: string;
  /** The technician's. */
  readonly signature?: string | undefined;
}

/** An account that is signed in by itself at the next start of the computer. */
export interface RaisedSignIn {
  readonly orderId: string;
  readonly account: string;
  /** The technician's. */
  readonly signature?: string | undefined;
}

/** What going back to a safe point puts back that only an administrator may. */
export interface RaisedBack {
  readonly orderId: string;
  readonly back: RightsBack;
  /** The technician's. */
  readonly signature?: string | undefined;
}

/** What is asked of the person here: one of these accounts' passwords. */
export interface PasswordWanted {
  readonly accounts: readonly string[];
  /** This one included. */
  readonly triesLeft: number;
}
export interface PasswordTyped {
  readonly account: string;
  readonly password: string;
}

/** Rights that are raised, and held by a process of their own: it ends with this one, whatever happens to it. */
export interface RaisedRights {
  /** Runs an action to its end, as RunbookPort does, as this computer's administrator. Rejects with RightsRefused. */
  run(order: RaisedOrder, may: () => boolean, print: (text: string) => void, signal: AbortSignal): Promise<ScriptEnded>;
  /** Stops, starts and the like. Rejects with RightsRefused. */
  service(order: RaisedService, may: () => boolean, signal: AbortSignal): Promise<ActEnded>;
  /** Puts packages and services back. Resolves once nothing of it runs any longer; rejects with RightsRefused. */
  putBack(order: RaisedBack, may: () => boolean, signal: AbortSignal): Promise<ScriptEnded>;
  /** Rejects with RightsRefused. */
  signInOnce(order: RaisedSignIn, may: () => boolean, signal: AbortSignal): Promise<void>;
  /** Gives them back. Once nothing that was begun by them runs any longer. */
  lower(): void;
  /** Once they are gone, for whatever reason; `mayGoOn`: what was begun by them may not have ended. */
  readonly gone: Promise<{ readonly mayGoOn: boolean }>;
}

/** Why they are not raised, or not used, in words that technicians read; `why` where the ledger has a word for it. */
export class RightsRefused extends Error {
  readonly why: 'wrong-password' | 'not-typed' | 'not-there';
  constructor(words: string, why: RightsRefused['why'] = 'not-there') {
    super(words);
    this.why = why;
  }
}

/** The rights of this computer's administrator. */
export interface RightsPort {
  possible(signal: AbortSignal): Promise<RightsPossible>;
  /** `put` asks the person here, and answers undefined when they do not want it. Rejects with RightsRefused. */
  byPassword(
    put: (wanted: PasswordWanted) => Promise<PasswordTyped | undefined>,
    signal: AbortSignal,
  ): Promise<RaisedRights>;
  /** By the desk's leave. `prove` signs as the holder of this session. Rejects with RightsRefused. */
  byLeave(
    leave: RightsLeave & { readonly raiseId: string; readonly sessionId: string; readonly technicianKey: string },
    holder: { readonly key: string; prove(nonce: string): string },
    signal: AbortSignal,
  ): Promise<RaisedRights>;
}
