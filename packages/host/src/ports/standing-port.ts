import type { StandingConsent } from '@porch/core';

/** A standing consent as this account keeps it. */
export interface Standing {
  readonly deskName: string;
  readonly deviceId: string;
  readonly consent: StandingConsent;
  /** What is kept in place of the words: see `second-secret.ts` of the wire. */
  readonly salt: string;
  readonly scalar: string;
  readonly triesLeft: number;
}

export interface VisitLine {
  readonly atMs: number;
  readonly sessionId: string;
  readonly technicianName: string;
  /** Whether anything could be seen or done. */
  readonly hasBegun: boolean;
}

/** A visit to this device: its standing consent is in force here. */
export interface VisitPort {
  readonly standing: Standing;
  /** The consent as it is now; undefined once it was ended. */
  read(): Standing | undefined;
  /** Takes one try before anything is compared. False: none left. */
  takeTry(): boolean;
  setTries(triesLeft: number): void;
  addVisit(visit: VisitLine): void;
  onBegun(): void;
}

/** Where a standing consent that is made in this session goes. */
export interface KeepPort {
  /** The most days that the desk allows. */
  readonly mostDays: number;
  /** What this computer is called when no ticket names it. */
  readonly computer: string;
  /** One was made: there is no room for another. */
  readonly isTaken: boolean;
  /** Tells the desk, and writes down what is needed to let visits in: never the words themselves. */
  keep(consent: StandingConsent, words: readonly string[]): Promise<void>;
  /** It was taken back in the session in which it was made: all that belongs to it goes. */
  onDropped(): void;
}
