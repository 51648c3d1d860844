interface Coded {
  readonly code?: string;
}
const NONE = 'no failure';
const codeIn = (error: unknown): string => (error as Coded).code ?? String(error);

/** The code with which something asynchronous failed, to be compared; what has none says what it is. */
export const failure = (work: Promise<unknown>): Promise<string> => work.then(() => NONE, codeIn);

/** The same of what is done at once. */
export function codeOf(work: () => unknown): string {
  try {
    work();
    return NONE;
  } catch (error) {
    return codeIn(error);
  }
}
