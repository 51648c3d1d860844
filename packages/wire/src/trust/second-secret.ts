import { p256 } from '@noble/curves/nist.js';
import { hkdf } from '@noble/hashes/hkdf.js';
import { hmac } from '@noble/hashes/hmac.js';
import { scryptAsync } from '@noble/hashes/scrypt.js';
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, concatBytes, hexToBytes, utf8ToBytes } from '@noble/hashes/utils.js';

/*
 * The second secret of a standing consent is proven with SPAKE2 (RFC 9382, P-256, SHA-256, HKDF, HMAC): the words
 * themselves never travel, whoever listens or sits between gets one guess for each exchange and nothing to try others on
 * afterwards, and what is proven is tied to the session and to both programs' keys.
 *
 *   technician ── pA = x·P + w·M ──────────────▶ Doorstep
 *   technician ◀─ pB = y·P + w·N, proof of B ─── Doorstep     (Doorstep counts the try before it looks)
 *   technician ── proof of A ──────────────────▶ Doorstep
 */
const P = p256.Point.BASE;
/** RFC 9382, section 6, for P-256. */
const M = p256.Point.fromHex('02886e2f97ace46e55ba9dd7242579f2993b64e16ef3dcab95afd497333d8fa12f');
const N = p256.Point.fromHex('03d8bbd6c639c62937b04d997f38c3770719c629d7014d49a24b4f98baa1292b49');
const order = p256.Point.Fn.ORDER;

/** What an attacker pays for each guess at a stolen store, by RFC 7914: about 50 ms and 32 MB. */
const SCRYPT = { N: 2 ** 15, r: 8, p: 1 };

export interface Spake2Sides {
  /** Who begins (the technician), and who answers (Doorstep): names both know. */
  readonly a: string;
  readonly b: string;
}

/** What both must agree on beside the words: the session, and the keys of the two programs. */
export function secretContext(
  sessionId: string,
  technician: { readonly signKey: string; readonly agreeKey: string },
  holder: { readonly signKey: string; readonly agreeKey: string },
): Uint8Array {
  return utf8ToBytes(
    ['porch visit 1', sessionId, technician.signKey, technician.agreeKey, holder.signKey, holder.agreeKey].join('\n'),
  );
}
export const secretSides = (deviceId: string): Spake2Sides => ({ a: 'technician', b: `device ${deviceId}` });

const toScalar = (bytes: Uint8Array) => BigInt(`0x${bytesToHex(bytes)}`) % order;

/** The scalar that both sides make of the words; Doorstep keeps it in place of the words. 40 bytes, so that no value is likelier. */
export async function scalarOfSecret(words: string, saltHex: string): Promise<string> {
  const plain = words
    .normalize('NFKC')
    .toLowerCase()
    .split(/[\s·,-]+/u)
    .filter(Boolean)
    .join(' ');
  const bytes = await scryptAsync(utf8ToBytes(plain), hexToBytes(saltHex), { ...SCRYPT, dkLen: 40 });
  return toScalar(bytes).toString(16).padStart(64, '0');
}

/** A fresh secret scalar. `random` has 40 bytes. */
export const freshScalar = (random: Uint8Array): bigint => toScalar(random);

type Point = typeof P;
const times = (point: Point, scalar: bigint) => (scalar === 0n ? p256.Point.ZERO : point.multiply(scalar));
const bytesOf = (point: Point) => point.toBytes(false);

/** Undefined for what is no point of the curve, or the one that multiplies everything away. */
function readPoint(hex: string): Point | undefined {
  try {
    const point = p256.Point.fromHex(hex);
    point.assertValidity();
    return point;
  } catch {
    // Hostile or broken bytes: there is no exchange with them.
    return undefined;
  }
}

export const shareOfA = (w: bigint, x: bigint): string => bytesToHex(bytesOf(times(P, x).add(times(M, w))));
export const shareOfB = (w: bigint, y: bigint): string => bytesToHex(bytesOf(times(P, y).add(times(N, w))));

/** Each part behind its length in eight little-endian bytes, as section 3.3 asks. */
function transcriptOf(parts: readonly Uint8Array[]): Uint8Array {
  return concatBytes(
    ...parts.flatMap((part) => {
      const length = new Uint8Array(8);
      new DataView(length.buffer).setBigUint64(0, BigInt(part.length), true);
      return [length, part];
    }),
  );
}

export interface Spake2Result {
  /** What each side proves itself with. Compare without leaving early. */
  readonly proofOfA: string;
  readonly proofOfB: string;
  /** Ke of the RFC: a key that only the two have. */
  readonly sharedKey: string;
}

interface Exchange {
  readonly sides: Spake2Sides;
  readonly w: bigint;
  readonly shareA: string;
  readonly shareB: string;
  /** The additional data of section 4: what else both must agree on. */
  readonly aad: Uint8Array;
}

function finish({ sides, w, shareA, shareB, aad }: Exchange, shared: Point): Spake2Result {
  const transcript = transcriptOf([
    utf8ToBytes(sides.a),
    utf8ToBytes(sides.b),
    hexToBytes(shareA),
    hexToBytes(shareB),
    bytesOf(shared),
    hexToBytes(w.toString(16).padStart(64, '0')),
  ]);
  const hash = sha256(transcript);
  const confirmation = hkdf(
    sha256,
    hash.subarray(16),
    undefined,
    concatBytes(utf8ToBytes('ConfirmationKeys'), aad),
    32,
  );
  return {
    sharedKey: bytesToHex(hash.subarray(0, 16)),
    proofOfA: bytesToHex(hmac(sha256, confirmation.subarray(0, 16), transcript)),
    proofOfB: bytesToHex(hmac(sha256, confirmation.subarray(16), transcript)),
  };
}

/** The technician's side, once Doorstep's share has come; undefined for a share that is none. */
export function finishAsA(exchange: Exchange, x: bigint): Spake2Result | undefined {
  const share = readPoint(exchange.shareB);
  const shared = share && times(share.subtract(times(N, exchange.w)), x);
  return shared && !shared.equals(p256.Point.ZERO) ? finish(exchange, shared) : undefined;
}

/** Doorstep's side, once the technician's share has come; undefined for a share that is none. */
export function finishAsB(exchange: Exchange, y: bigint): Spake2Result | undefined {
  const share = readPoint(exchange.shareA);
  const shared = share && times(share.subtract(times(M, exchange.w)), y);
  return shared && !shared.equals(p256.Point.ZERO) ? finish(exchange, shared) : undefined;
}

/** Whether two proofs are the same, in a time that does not say where they differ. */
export function isSameProof(a: string, b: string): boolean {
  if (a.length !== b.length) return false;
  let difference = 0;
  for (let i = 0; i < a.length; i++) difference |= a.charCodeAt(i) ^ b.charCodeAt(i);
  return difference === 0;
}
