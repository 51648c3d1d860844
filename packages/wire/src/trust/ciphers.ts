import { gcm } from '@noble/ciphers/aes.js';
import { sha256 } from '@noble/hashes/sha2.js';

/** A hash of what is given piece by piece; SHA-256 (FIPS 180-4). */
export interface RunningHash {
  update(bytes: Uint8Array): unknown;
  /** 32 bytes. Nothing can be added afterwards. */
  digest(): Uint8Array;
}

/** What seals and hashes much at once: plain code that runs anywhere, or what a system brings, many times faster. */
export interface Ciphers {
  /** AES-256-GCM (NIST SP 800-38D): the header, which is the additional data, the sealed bytes, and the tag of 16 bytes. */
  seal(key: Uint8Array, nonce: Uint8Array, header: Uint8Array, plain: Uint8Array): Uint8Array;
  /** The plain bytes, nobody else's. Throws when anything of it or of the header was changed. */
  open(key: Uint8Array, nonce: Uint8Array, header: Uint8Array, sealed: Uint8Array): Uint8Array;
  hash(): RunningHash;
}

export const plainCiphers: Ciphers = {
  seal(key, nonce, header, plain) {
    const sealed = gcm(key, nonce, header).encrypt(plain);
    const message = new Uint8Array(header.length + sealed.length);
    message.set(header);
    message.set(sealed, header.length);
    return message;
  },
  open: (key, nonce, header, sealed) => gcm(key, nonce, header).decrypt(sealed),
  hash: () => sha256.create(),
};
