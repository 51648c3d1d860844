/** Machines that others use, too, stand still for seconds: whoever waits for what comes waits long, and it costs nothing. */
const GIVE_UP_MS = 60_000;

/** Waits for what is needed, looking often, and says what was missing when it never came. */
export async function until<T>(
  what: string,
  look: () => T | undefined | false | Promise<T | undefined | false>,
  timeoutMs = GIVE_UP_MS,
): Promise<T> {
  const giveUpAt = Date.now() + timeoutMs;
  for (;;) {
    const found = await look();
    // Nothing found is nothing found, however it is written.
    if (found !== undefined && found !== false && found !== 0 && found !== '') return found;
    if (Date.now() > giveUpAt) throw new Error(`waited in vain: ${what}`);
    await new Promise((resolve) => setTimeout(resolve, 25));
  }
}
