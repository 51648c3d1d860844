/** Waits for what is needed, looking often, and says what was missing when it never came. */
export async function until<T>(
  what: string,
  look: () => T | undefined | false | Promise<T | undefined | false>,
  timeoutMs = 15_000,
): Promise<T> {
  const giveUpAt = Date.now() + timeoutMs;
  for (;;) {
    const found = await look();
    if (found !== undefined && found !== false) return found;
    if (Date.now() > giveUpAt) throw new Error(`waited in vain: ${what}`);
    await new Promise((resolve) => setTimeout(resolve, 25));
  }
}
