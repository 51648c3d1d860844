import { SECOND_NUMBER_DIGITS } from '@porch/core';
import { createCipheriv, createDecipheriv, createHash, createHmac, randomBytes } from 'node:crypto';

/** 256 random bits, in characters that survive a link. */
export const makeToken = (): string => randomBytes(32).toString('base64url');

/** Tokens have so much randomness that a plain hash at rest is enough. */
export const hashToken = (token: string): Buffer => createHash('sha256').update(token).digest();

/** One-time codes have little randomness: at rest they are found by a keyed hash and read by whoever has the secret. */
export class CodeSecrets {
  readonly #lookupKey: Buffer;
  readonly #sealKey: Buffer;
  readonly #deriveKey: Buffer;

  constructor(secret: Buffer) {
    this.#lookupKey = createHmac('sha256', secret).update('code lookup').digest();
    this.#sealKey = createHmac('sha256', secret).update('code seal').digest();
    this.#deriveKey = createHmac('sha256', secret).update('derived tokens').digest();
  }

  /** A token that is the same whenever it is needed, so that a look makes no new one; nobody without the secret can make it. */
  derive(name: string): string {
    return createHmac('sha256', this.#deriveKey).update(name).digest('base64url');
  }

  /** The six digits that stand beside a code: the same whenever they are shown, kept nowhere. */
  secondNumber(codeId: string): string {
    const bytes = createHmac('sha256', this.#deriveKey).update(`second number ${codeId}`).digest();
    return String(bytes.readUIntBE(0, 6) % 10 ** SECOND_NUMBER_DIGITS).padStart(SECOND_NUMBER_DIGITS, '0');
  }

  lookup(digits: string): Buffer {
    return createHmac('sha256', this.#lookupKey).update(digits).digest();
  }

  seal(digits: string): Buffer {
    const nonce = randomBytes(12);
    const cipher = createCipheriv('aes-256-gcm', this.#sealKey, nonce);
    return Buffer.concat([nonce, cipher.update(digits, 'utf8'), cipher.final(), cipher.getAuthTag()]);
  }

  open(sealed: Buffer): string {
    const decipher = createDecipheriv('aes-256-gcm', this.#sealKey, sealed.subarray(0, 12));
    decipher.setAuthTag(sealed.subarray(-16));
    return decipher.update(sealed.subarray(12, -16), undefined, 'utf8') + decipher.final('utf8');
  }
}
