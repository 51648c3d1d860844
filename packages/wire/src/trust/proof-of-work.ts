import { sha256 } from '@noble/hashes/sha2.js';
import { utf8ToBytes } from '@noble/hashes/utils.js';

/** What a client computed because it was asked to, so that asking again costs it something. */
export interface Work {
  /** As the service gave it. */
  readonly challenge: string;
  readonly answer: string;
}

const CONTEXT = 'porch work 1';
/** A service that asks for more than this wants to keep a program busy, not to slow it down. */
export const MAX_WORK_BITS = 24;
/** So many hashes are made before anything else gets its turn: a few milliseconds. */
const AT_A_TIME = 2_000;

/** How many bits are nought at the front of SHA-256(context, challenge, answer), one a line. */
export function workBits({ challenge, answer }: Work): number {
  let bits = 0;
  for (const byte of sha256(utf8ToBytes([CONTEXT, challenge, answer].join('\n')))) {
    if (byte === 0) bits += 8;
    else return bits + Math.clz32(byte) - 24;
  }
  return bits;
}

/** Finds an answer of so many bits: 2 to the power of them hashes in the mean. Throws when more is asked than is right. */
export async function doWork(challenge: string, bits: number): Promise<Work> {
  if (!Number.isInteger(bits) || bits > MAX_WORK_BITS) throw new RangeError('the service asks for too much work');
  for (let n = 0; ; n++) {
    const work = { challenge, answer: n.toString(36) };
    if (workBits(work) >= bits) return work;
    if (n % AT_A_TIME === AT_A_TIME - 1) await new Promise((resolve) => setTimeout(resolve, 0));
  }
}
