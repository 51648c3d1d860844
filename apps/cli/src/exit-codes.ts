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

/** A failure that the person at the terminal can do something about; the message says what. */
export class CliError extends Error {
  override readonly name = 'CliError';
  readonly exitCode: number;

  constructor(message: string, exitCode: number) {
    super(message);
    this.exitCode = exitCode;
  }
}
