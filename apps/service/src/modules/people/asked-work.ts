import { workBits, type Work } from '@porch/wire';
import { randomBytes } from 'node:crypto';
import type { CodeSecrets } from '../../auth/tokens.ts';

/** Long enough for the slowest computer, short enough that nobody saves up answers. */
const CHALLENGE_MS = 5 * 60_000;
const FIRST_BITS = 17;
const LAST_BITS = 22;
/** Each so many worked tries of an hour double what the next costs. */
const TRIES_PER_BIT = 10;

/** Work that is asked for before another try: nothing is kept of a challenge until it comes back answered. */
export class AskedWork {
  readonly #secrets: CodeSecrets;

  constructor(secrets: CodeSecrets) {
    this.#secrets = secrets;
  }

  /** A challenge for one try at this name, harder the more tries there were. */
  ask(who: string, earlierTries: number): { challenge: string; bits: number } {
    const bits = Math.min(LAST_BITS, FIRST_BITS + Math.floor(earlierTries / TRIES_PER_BIT));
    const open = `${randomBytes(12).toString('base64url')}.${Date.now() + CHALLENGE_MS}.${bits}`;
    return { challenge: `${open}.${this.#seal(who, open)}`, bits };
  }

  /** The challenge's own name, when it is ours, for this name, in time, and answered. The caller takes each once. */
  check(who: string, work: Work): string | undefined {
    const [id = '', endsAtMs = '', bits = '', seal = ''] = work.challenge.split('.');
    const isOurs = seal === this.#seal(who, `${id}.${endsAtMs}.${bits}`);
    return isOurs && Number(endsAtMs) > Date.now() && workBits(work) >= Number(bits) ? id : undefined;
  }

  #seal(who: string, open: string): string {
    return this.#secrets.derive(`work\n${who}\n${open}`);
  }
}
