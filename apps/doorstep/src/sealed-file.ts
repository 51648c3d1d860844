import { createCipheriv, createDecipheriv, hkdfSync, randomBytes } from 'node:crypto';
import { z } from 'zod';

const hex = (bytes: number) => z.string().regex(new RegExp(`^[0-9a-f]{${2 * bytes}}$`));
export const Sealed = z.strictObject({
  salt: hex(32),
  nonce: hex(12),
  tag: hex(16),
  bytes: z.string().regex(/^[0-9a-f]+$/),
});
export type Sealed = z.infer<typeof Sealed>;

const CIPHER = 'aes-256-gcm';
const keyOf = (half: string, salt: Buffer, what: string): Buffer =>
  Buffer.from(hkdfSync('sha256', half, salt, `porch kept ${what}`, 32));

/**
 * Text that is read again only by whoever is told the other half of its key: AES-256-GCM (NIST SP 800-38D) under HKDF
 * (RFC 5869) of that half with what lies beside it. `what` is bound into both.
 */
export function seal(half: string, what: string, text: string): Sealed {
  const [salt, nonce] = [randomBytes(32), randomBytes(12)];
  const cipher = createCipheriv(CIPHER, keyOf(half, salt, what), nonce).setAAD(Buffer.from(what));
  const bytes = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
  return {
    ...{ salt: salt.toString('hex'), nonce: nonce.toString('hex') },
    ...{ tag: cipher.getAuthTag().toString('hex'), bytes: bytes.toString('hex') },
  };
}

/** Undefined when it was sealed with another half, for something else, or changed since. */
export function unseal(half: string, what: string, sealed: Sealed): string | undefined {
  const of = (name: keyof Sealed) => Buffer.from(sealed[name], 'hex');
  try {
    const decipher = createDecipheriv(CIPHER, keyOf(half, of('salt'), what), of('nonce'), { authTagLength: 16 })
      .setAAD(Buffer.from(what))
      .setAuthTag(of('tag'));
    return Buffer.concat([decipher.update(of('bytes')), decipher.final()]).toString('utf8');
  } catch {
    return undefined;
  }
}
