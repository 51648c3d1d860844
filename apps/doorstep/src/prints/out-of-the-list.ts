import { setTimeout as wait } from 'node:timers/promises';
import { PrintSystem, PrintSystemRefused } from './print-system.ts';

const LOOK_EVERY_MS = 2_000;
/** The print system lets go of a printer that nobody used for a minute, and looks once a minute. */
const GONE_WITHIN_MS = 240_000;

/** A printer of ours in the computer's list. */
export interface ListedPrinter {
  readonly name: string;
  /** Where it sends what is printed on it. */
  readonly device: string;
}

/** As one word, and back. */
export const printerWord = ({ name, device }: ListedPrinter): string => `${name}|${device}`;
export function printerOfWord(word: string): ListedPrinter {
  const [name = '', device = ''] = word.split('|');
  return { name, device };
}

/**
 * Takes a printer out of the list whose device is closed. Where this account may not do that, the print system does it once
 * nothing waits for the printer, and so whatever is printed on it until then is cancelled. Resolves once it is gone.
 * `isAwaited`: this process stays until then.
 */
export async function takeOutOfTheList(
  system: PrintSystem,
  { name, device }: ListedPrinter,
  isAwaited: boolean,
): Promise<void> {
  await cancelled(system, name);
  if (await system.remove(name)) return;
  const looks = Math.ceil(GONE_WITHIN_MS / LOOK_EVERY_MS);
  for (let look = 0; look < looks; look++) {
    // Somebody else's may have its name by now.
    if ((await system.deviceOf(name)) !== device) return;
    await cancelled(system, name);
    await wait(LOOK_EVERY_MS, undefined, { ref: isAwaited });
  }
  throw new Error(`the print system keeps the printer ${name} in its list`);
}

async function cancelled(system: PrintSystem, name: string): Promise<void> {
  try {
    await system.cancelMine(name);
  } catch (error) {
    // There was nothing to cancel.
    if (!(error instanceof PrintSystemRefused)) throw error;
  }
}
