/** What a file or a socket says, or undefined for what is no JSON: half a line after a crash, or somebody else's bytes. */
export function jsonOrUndefined(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
