import { SECOND_NUMBER_DIGITS } from '@porch/core';
import { createCipheriv, createDecipheriv, createHash, createHmac, randomBytes } from 'node:crypto';

/** 256 random bits, in characters that survive a link. */
export const makeToken = (): string => randomBytes(32).toString('base64url');

/** Tokens have so much randomness that a plain hash at rest is enough. */
export const hashToken = (token: string): Buffer => createHash('sha256').update(token).digest();

interface Keys {
  readonly lookup: Buffer;
  readonly seal: Buffer;
  readonly derive: Buffer;
  /** Tells it from others, and is of no use without it. */
  readonly id: Buffer;
}
function keysOf(secret: Buffer): Keys {
  const of = (use: string) => createHmac('sha256', secret).update(use).digest();
  return {
    lookup: of('code lookup'),
    seal: of('code seal'),
    derive: of('derived tokens'),
    id: of('which secret').subarray(0, 8),
  };
}
const lookupWith = (keys: Keys, digits: string) => createHmac('sha256', keys.lookup).update(digits).digest();

/**
 * One-time codes have little randomness: at rest they are found by a keyed hash and read by whoever has the secret. After
 * a rotation the secret before is still known: it finds and opens, and nothing new is made with it.
 */
export class CodeSecrets {
  readonly #now: Keys;
  readonly #all: readonly Keys[];

  /** The newest first. */
  constructor(now: Buffer, ...before: Buffer[]) {
    this.#now = keysOf(now);
    this.#all = [this.#now, ...before.map(keysOf)];
  }

  /** A token that is the same whenever it is needed, so that a look makes no new one; nobody without the secret can make it. */
  derive(name: string): string {
    return createHmac('sha256', this.#now.derive).update(name).digest('base64url');
  }

  /** The six digits that stand beside a code: the same whenever they are shown, kept nowhere. */
  secondNumber(codeId: string): string {
    const bytes = createHmac('sha256', this.#now.derive).update(`second number ${codeId}`).digest();
    return String(bytes.readUIntBE(0, 6) % 10 ** SECOND_NUMBER_DIGITS).padStart(SECOND_NUMBER_DIGITS, '0');
  }

  /** 32 bytes to make a key pair of, under each secret that is known, the newest first. */
  seeds(use: string): readonly [Buffer, ...Buffer[]] {
    const of = (keys: Keys) => createHmac('sha256', keys.derive).update(`key pair ${use}`).digest();
    return [of(this.#now), ...this.#all.slice(1).map(of)];
  }

  lookup(digits: string): Buffer {
    return lookupWith(this.#now, digits);
  }

  /** Under each secret that is known: what was made before a rotation is found, too. */
  lookups(digits: string): Buffer[] {
    return this.#all.map((keys) => lookupWith(keys, digits));
  }

  seal(digits: string): Buffer {
    return this.sealBytes(Buffer.from(digits, 'utf8'));
  }

  /** Undefined when it was sealed with a secret that is not known any longer, or changed. */
  open(sealed: Buffer): string | undefined {
    return this.openBytes(sealed)?.toString('utf8');
  }

  /** What tells the secrets apart, the newest first; of no use without them. */
  get secretIds(): readonly [Buffer, ...Buffer[]] {
    return [this.#now.id, ...this.#all.slice(1).map(({ id }) => id)];
  }

  /** For what lies in the records and is nobody's to read there. */
  sealBytes(plain: Uint8Array): Buffer {
    const nonce = randomBytes(12);
    const cipher = createCipheriv('aes-256-gcm', this.#now.seal, nonce);
    return Buffer.concat([nonce, cipher.update(plain), cipher.final(), cipher.getAuthTag()]);
  }

  openBytes(sealed: Buffer): Buffer | undefined {
    for (const keys of this.#all) {
      try {
        const decipher = createDecipheriv('aes-256-gcm', keys.seal, sealed.subarray(0, 12));
        decipher.setAuthTag(sealed.subarray(-16));
        return Buffer.concat([decipher.update(sealed.subarray(12, -16)), decipher.final()]);
      } catch {
        // Another secret's: the next one may fit.
      }
    }
    return undefined;
  }
}
