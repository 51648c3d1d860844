import { Permission } from '@porch/core';
import type { ReturnAgreement } from '@porch/host';
import { keepKeys, makeKeys, startAgainWith, type ParticipantKeys } from '@porch/wire';
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { z } from 'zod';
import { jsonOrUndefined } from './json-or-undefined.ts';
import { isAlive } from './processes.ts';
import { bootId } from './system/maker.ts';
import type { Warn } from './warn.ts';
import { writeWhole } from './whole-file.ts';
import { Sealed, seal, unseal } from './sealed-file.ts';

const hex = z.string().regex(/^[0-9a-f]{64}$/);
const Kept = z.strictObject({ version: z.literal(2), pid: z.int().min(1), bootId: z.string(), sealed: Sealed });
const Inside = z.strictObject({
  signSecret: hex,
  agreeSecret: hex,
  agreement: z
    .strictObject({
      signKey: hex,
      agreeKey: hex,
      permissions: z.array(z.strictObject({ permission: Permission, endsAtMs: z.number() })),
    })
    .optional(),
});
type Inside = z.infer<typeof Inside>;

const fileOf = (folder: string, sessionId: string): string => join(folder, `keys-${sessionId}.json`);
/** For a session to which nobody comes back. */
export const forgetKeys = (folder: string, sessionId: string): void =>
  rmSync(fileOf(folder, sessionId), { force: true });

/**
 * This computer's pairs for one session, in a file that only this account can read, so that a Doorstep that was killed, or
 * went down with its computer, comes back as who it was; and what was agreed to come back with it. Half of what opens the
 * file is the service's, and handed out as long as there is a pass for the session. Two programs at once never have the
 * same pairs: the one that runs keeps them.
 */
export class SessionKeys {
  readonly #file: string;
  readonly #what: string;
  readonly #half: string | undefined;
  #isOurs = true;
  #keys: ParticipantKeys | undefined;
  #agreement: ReturnAgreement | undefined;
  #isOfEarlierBoot = false;
  readonly #warn: Warn;

  /** Without a half nothing is kept. */
  constructor(folder: string, sessionId: string, half: string | undefined, warn: Warn) {
    this.#file = fileOf(folder, sessionId);
    this.#what = `keys ${sessionId}`;
    this.#half = half;
    this.#warn = warn;
  }

  /** The pairs that were taken are those of before the computer went down. */
  get isOfEarlierBoot(): boolean {
    return this.#isOfEarlierBoot;
  }
  /** What comes back with this start; undefined when nothing was agreed, or nobody came back. */
  get agreement(): ReturnAgreement | undefined {
    return this.#agreement;
  }

  /** `isKept`: an earlier program of ours had these pairs, and is gone. */
  take(): { keys: ParticipantKeys; isKept: boolean } {
    const kept = this.#read();
    this.#isOfEarlierBoot = kept !== undefined && kept.bootId !== bootId();
    if (kept && !this.#isOfEarlierBoot && kept.pid !== process.pid && isAlive(kept.pid)) {
      this.#isOurs = false;
      return { keys: makeKeys(), isKept: false };
    }
    const inside = kept && this.#open(kept.sealed);
    this.#agreement = inside?.agreement;
    this.#keys = inside ? startAgainWith(inside) : makeKeys();
    this.#writeOrForget();
    return { keys: this.#keys, isKept: inside !== undefined };
  }

  /** Others, for a place that was given up meanwhile: nothing comes back to it. */
  renew(): ParticipantKeys {
    this.#keys = makeKeys();
    this.#agreement = undefined;
    this.#writeOrForget();
    return this.#keys;
  }

  /** From now on this comes back with the next start. Outlasts a cut of power once it returns; throws where it cannot be kept. */
  agree(agreement: ReturnAgreement | undefined): void {
    this.#agreement = agreement;
    if (agreement) this.#write();
    else this.#writeOrForget();
  }

  forget(): void {
    if (this.#isOurs) rmSync(this.#file, { force: true });
  }

  #read(): z.infer<typeof Kept> | undefined {
    let text: string;
    try {
      text = readFileSync(this.#file, 'utf8');
    } catch {
      return undefined; // None were kept, or not for us to read: then we are somebody new.
    }
    return Kept.safeParse(jsonOrUndefined(text)).data;
  }
  #open(sealed: Sealed): Inside | undefined {
    const text = this.#half === undefined ? undefined : unseal(this.#half, this.#what, sealed);
    return text === undefined ? undefined : Inside.safeParse(jsonOrUndefined(text)).data;
  }

  /** A session goes on at a computer whose disk is full; whoever starts there later is somebody new. */
  #writeOrForget(): void {
    try {
      this.#write();
    } catch (error) {
      this.#warn(
        String(error),
        'the keys of this session cannot be kept: a restart of this computer would end its consent',
      );
      this.forget();
    }
  }
  #write(): void {
    if (!this.#isOurs || this.#half === undefined || !this.#keys) return;
    const inside = { ...keepKeys(this.#keys), ...(this.#agreement ? { agreement: this.#agreement } : {}) };
    mkdirSync(dirname(this.#file), { recursive: true, mode: 0o700 });
    const sealed = seal(this.#half, this.#what, JSON.stringify(inside));
    const kept: z.infer<typeof Kept> = { version: 2, pid: process.pid, bootId: bootId(), sealed };
    writeWhole(this.#file, JSON.stringify(kept));
  }
}
