/*
 * The kernel's memory in plain TypeScript: the same names as `memory.ts` has for AssemblyScript. Calls into the kernel
 * are synchronous, and whoever makes one says on which memory it works.
 */
let bytes = new Uint8Array(0);
let halves = new Uint16Array(0);
let words = new Int32Array(0);

export function useMemory(buffer: ArrayBufferLike): void {
  if (bytes.buffer === buffer) return;
  bytes = new Uint8Array(buffer as ArrayBuffer);
  halves = new Uint16Array(buffer as ArrayBuffer);
  words = new Int32Array(buffer as ArrayBuffer);
}

export const load8 = (at: number): number => bytes[at] as number;
/** Positions of halves and words are always even, or multiples of four: the kernel lays its memory out so. */
export const load16 = (at: number): number => halves[at >> 1] as number;
export const load32 = (at: number): number => words[at >> 2] as number;
export const store8 = (at: number, value: number): void => {
  bytes[at] = value;
};
export const store16 = (at: number, value: number): void => {
  halves[at >> 1] = value;
};
export const store32 = (at: number, value: number): void => {
  words[at >> 2] = value;
};
export const mul32 = Math.imul;
export const copyBytes = (to: number, from: number, count: number): void => {
  bytes.copyWithin(to, from, from + count);
};
export const fillBytes = (at: number, value: number, count: number): void => {
  bytes.fill(value, at, at + count);
};

export function sameRun(a: number, b: number, pixels: number): boolean {
  const [i, j] = [a >> 2, b >> 2];
  for (let n = 0; n < pixels; n++) if (words[i + n] !== words[j + n]) return false;
  return true;
}

export function sameFrom(a: number, b: number, pixels: number): number {
  const [i, j] = [a >> 2, b >> 2];
  let n = 0;
  while (n < pixels && words[i + n] === words[j + n]) n++;
  return n;
}

export function copyMasked(to: number, from: number, pixels: number): void {
  const [i, j] = [to >> 2, from >> 2];
  for (let n = 0; n < pixels; n++) words[i + n] = (words[j + n] as number) & 0xffffff;
}

const LANES = [0x9e3779b1 | 0, 0x85ebca77 | 0, 0xc2b2ae3d | 0, 0x27d4eb2f | 0] as const;

export function hashRun(at: number, pixels: number): number {
  let [a, b, c, d] = [0x2545f491, 0x2545f491, 0x2545f491, 0x2545f491];
  const from = at >> 2;
  let i = 0;
  for (; i + 4 <= pixels; i += 4) {
    a = Math.imul(a ^ (words[from + i] as number), LANES[0]);
    b = Math.imul(b ^ (words[from + i + 1] as number), LANES[1]);
    c = Math.imul(c ^ (words[from + i + 2] as number), LANES[2]);
    d = Math.imul(d ^ (words[from + i + 3] as number), LANES[3]);
    a ^= a >>> 15;
    b ^= b >>> 15;
    c ^= c >>> 15;
    d ^= d >>> 15;
  }
  let h = a ^ Math.imul(b, 31) ^ Math.imul(c, 961) ^ Math.imul(d, 29791);
  for (; i < pixels; i++) {
    h = Math.imul(h ^ (words[from + i] as number), 0x9e3779b1 | 0);
    h ^= h >>> 15;
  }
  return h | 0;
}
