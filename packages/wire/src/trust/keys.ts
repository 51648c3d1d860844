import { ed25519, x25519 } from '@noble/curves/ed25519.js';
import { bytesToHex, hexToBytes } from '@noble/hashes/utils.js';

/** Fresh for each session and each start of a program: one pair signs (Ed25519), one agrees on keys (X25519). */
export interface ParticipantKeys {
  readonly signSecret: Uint8Array;
  readonly agreeSecret: Uint8Array;
  /** Hex. */
  readonly signKey: string;
  /** Hex. */
  readonly agreeKey: string;
}

export function makeKeys(): ParticipantKeys {
  const signSecret = ed25519.utils.randomSecretKey();
  const agreeSecret = x25519.utils.randomSecretKey();
  return {
    signSecret,
    agreeSecret,
    signKey: bytesToHex(ed25519.getPublicKey(signSecret)),
    agreeKey: bytesToHex(x25519.getPublicKey(agreeSecret)),
  };
}

export const signBytes = (keys: ParticipantKeys, bytes: Uint8Array): string =>
  bytesToHex(ed25519.sign(bytes, keys.signSecret));

/** The same with the secret half alone, in hex, as it is kept on a disk. */
export const signBytesWith = (signSecretHex: string, bytes: Uint8Array): string =>
  bytesToHex(ed25519.sign(bytes, hexToBytes(signSecretHex)));

/** False for a wrong signature and for anything that is no signature or key at all. */
export function isSignedBy(signKey: string, bytes: Uint8Array, signature: string): boolean {
  try {
    return ed25519.verify(hexToBytes(signature), bytes, hexToBytes(signKey));
  } catch {
    // Malformed hex or a point off the curve: not signed by anybody.
    return false;
  }
}
