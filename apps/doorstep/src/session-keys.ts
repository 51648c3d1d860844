import { keepKeys, makeKeys, startAgainWith, type KeptKeys, type ParticipantKeys } from '@porch/wire';
import { mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { z } from 'zod';
import { jsonOrUndefined } from './json-or-undefined.ts';
import { isAlive } from './processes.ts';

const hex = z.string().regex(/^[0-9a-f]{64}$/);
const Kept = z.strictObject({ pid: z.int().min(1), signSecret: hex, agreeSecret: hex });

/**
 * This computer's pairs for one session, in a file that only this account can read, so that a Doorstep that was killed
 * comes back as who it was. Two programs at once never have the same: the one that runs keeps them.
 */
export class SessionKeys {
  readonly #file: string;
  #isOurs = true;

  constructor(folder: string, sessionId: string) {
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    this.#file = join(folder, `keys-${sessionId}.json`);
  }

  /** `isKept`: an earlier program of ours had these pairs, and is gone. */
  take(): { keys: ParticipantKeys; isKept: boolean } {
    const kept = this.#read();
    if (kept && kept.pid !== process.pid && isAlive(kept.pid)) {
      this.#isOurs = false;
      return { keys: makeKeys(), isKept: false };
    }
    const keys = kept ? startAgainWith(kept) : makeKeys();
    this.#write(keys);
    return { keys, isKept: kept !== undefined };
  }

  /** Others, for a place that was given up meanwhile. */
  renew(): ParticipantKeys {
    const keys = makeKeys();
    if (this.#isOurs) this.#write(keys);
    return keys;
  }

  forget(): void {
    if (this.#isOurs) rmSync(this.#file, { force: true });
  }

  #read(): (KeptKeys & { readonly pid: number }) | undefined {
    let text: string;
    try {
      text = readFileSync(this.#file, 'utf8');
    } catch {
      return undefined; // None were kept, or not for us to read: then we are somebody new.
    }
    return Kept.safeParse(jsonOrUndefined(text)).data;
  }

  #write(keys: ParticipantKeys): void {
    const fresh = `${this.#file}.new`;
    writeFileSync(fresh, JSON.stringify({ pid: process.pid, ...keepKeys(keys) }), { mode: 0o600 });
    renameSync(fresh, this.#file);
  }
}
