/** Machines that others use, too, stand still for seconds: whoever waits for what comes waits long, and it costs nothing. */
const GIVE_UP_MS = 60_000;
/** Time in which the whole machine stood still was nobody's chance: nothing is given up before it was looked for as often. */
const LOOKS_AT_LEAST = 200;
const GAP_MS = 25;

/** Waits for what is needed, looking often, and says what was missing when it never came. */
export async function until<T>(
  what: string,
  look: () => T | undefined | false | Promise<T | undefined | false>,
  timeoutMs = GIVE_UP_MS,
): Promise<T> {
  const giveUpAt = Date.now() + timeoutMs;
  for (let looks = 1; ; looks++) {
    const found = await look();
    // Nothing found is nothing found, however it is written.
    if (found !== undefined && found !== false && found !== 0 && found !== '') return found;
    if (Date.now() > giveUpAt && looks >= Math.min(LOOKS_AT_LEAST, timeoutMs / GAP_MS))
      throw new Error(`waited in vain: ${what}`);
    await new Promise((resolve) => setTimeout(resolve, GAP_MS));
  }
}
