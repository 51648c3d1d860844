/** Documented in docs/cli.md; scripts branch on these. */
export const exitCodes = {
  done: 0,
  refused: 1,
  wrongCall: 2,
  signInNeeded: 3,
  unreachable: 4,
  noSession: 5,
  notWhole: 6,
} as const;

/** What each says, for the manual page. */
export const exitWords: Readonly<Record<keyof typeof exitCodes, string>> = {
  done: 'done',
  refused: 'refused: by the customer, the desk or the state of the session; the message says why',
  wrongCall: 'called wrongly',
  signInNeeded: 'sign in first, or the sign-in was wrong',
  unreachable: 'the service cannot be reached',
  noSession: 'no such session, entry or handover',
  notWhole: 'the ledger is broken; the message says where',
};

/** A failure that the person at the terminal can do something about; the message says what. */
export class CliError extends Error {
  override readonly name = 'CliError';
  readonly exitCode: number;

  constructor(message: string, exitCode: number, options?: ErrorOptions) {
    super(message, options);
    this.exitCode = exitCode;
  }
}
