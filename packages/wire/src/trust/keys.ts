import { ed25519, x25519 } from '@noble/curves/ed25519.js';
import { bytesToHex, hexToBytes, randomBytes, utf8ToBytes } from '@noble/hashes/utils.js';

/**
 * One participant's two pairs, for one session: one signs (Ed25519), one agrees on keys (X25519). The pairs may outlive
 * a program, in the tab or on the computer of whoever they belong to; the start id never does. It is mixed into every
 * key that is derived, so that a counter, which begins anew with each start, never meets a key twice.
 */
export interface ParticipantKeys {
  readonly signSecret: Uint8Array;
  readonly agreeSecret: Uint8Array;
  /** Hex. */
  readonly signKey: string;
  /** Hex. */
  readonly agreeKey: string;
  /** 128 random bits in hex, fresh with every start of the program. */
  readonly startId: string;
}

const startWith = (signSecret: Uint8Array, agreeSecret: Uint8Array): ParticipantKeys => ({
  signSecret,
  agreeSecret,
  signKey: bytesToHex(ed25519.getPublicKey(signSecret)),
  agreeKey: bytesToHex(x25519.getPublicKey(agreeSecret)),
  startId: bytesToHex(randomBytes(16)),
});

export function makeKeys(): ParticipantKeys {
  return startWith(ed25519.utils.randomSecretKey(), x25519.utils.randomSecretKey());
}

/** The secrets of both pairs in hex, as a tab or a computer keeps them over a restart of its program. */
export interface KeptKeys {
  readonly signSecret: string;
  readonly agreeSecret: string;
}
export const keepKeys = (keys: ParticipantKeys): KeptKeys => ({
  signSecret: bytesToHex(keys.signSecret),
  agreeSecret: bytesToHex(keys.agreeSecret),
});

/** The same pairs in a program that starts again. Throws when what was kept is no secret of these curves. */
export function startAgainWith(kept: KeptKeys): ParticipantKeys {
  return startWith(hexToBytes(kept.signSecret), hexToBytes(kept.agreeSecret));
}

/** A program as others know it: whose it is, and which of its starts. */
export const startOf = (of: { readonly signKey: string; readonly startId: string }): string =>
  `${of.signKey}.${of.startId}`;

/** What `hello` signs: a nonce that the service made for this socket alone, and all that it is to be believed about. */
export const helloBytes = (said: {
  readonly nonce: string;
  readonly sessionId: string;
  readonly pass: string;
  readonly signKey: string;
  readonly agreeKey: string;
  readonly startId: string;
}): Uint8Array =>
  utf8ToBytes(
    ['porch hello 3', said.nonce, said.sessionId, said.pass, said.signKey, said.agreeKey, said.startId].join('\n'),
  );

/** What a program says of itself in `hello`, signed over the nonce of this socket. */
export function helloOf(keys: ParticipantKeys, nonce: string, pass: { sessionId: string; pass: string }) {
  const { signKey, agreeKey, startId } = keys;
  const said = { pass: pass.pass, signKey, agreeKey, startId };
  return { ...said, signature: signBytes(keys, helloBytes({ nonce, sessionId: pass.sessionId, ...said })) };
}

export const signBytes = (keys: ParticipantKeys, bytes: Uint8Array): string =>
  bytesToHex(ed25519.sign(bytes, keys.signSecret));

/** The same with the secret half alone, in hex, as it is kept on a disk. */
export const signBytesWith = (signSecretHex: string, bytes: Uint8Array): string =>
  bytesToHex(ed25519.sign(bytes, hexToBytes(signSecretHex)));

/** The public half that goes with a secret one, both in hex. */
export const signKeyOf = (signSecretHex: string): string => bytesToHex(ed25519.getPublicKey(hexToBytes(signSecretHex)));

/** False for a wrong signature and for anything that is no signature or key at all. */
export function isSignedBy(signKey: string, bytes: Uint8Array, signature: string): boolean {
  try {
    return ed25519.verify(hexToBytes(signature), bytes, hexToBytes(signKey));
  } catch {
    // Malformed hex or a point off the curve: not signed by anybody.
    return false;
  }
}
