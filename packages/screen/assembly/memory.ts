// The memory as AssemblyScript has it: the names that `src/kernel/memory.ts` has for plain TypeScript. Built, not type-checked.
@inline export function load8(at: i32): i32 { return <i32>load<u8>(<usize>at); }
@inline export function load16(at: i32): i32 { return <i32>load<u16>(<usize>at); }
@inline export function load32(at: i32): i32 { return load<i32>(<usize>at); }
@inline export function store8(at: i32, value: i32): void { store<u8>(<usize>at, <u8>value); }
@inline export function store16(at: i32, value: i32): void { store<u16>(<usize>at, <u16>value); }
@inline export function store32(at: i32, value: i32): void { store<i32>(<usize>at, value); }
@inline export function mul32(a: i32, b: i32): i32 { return a * b; }
@inline export function copyBytes(to: i32, from: i32, bytes: i32): void { memory.copy(<usize>to, <usize>from, <usize>bytes); }
@inline export function fillBytes(at: i32, value: i32, bytes: i32): void { memory.fill(<usize>at, <u8>value, <usize>bytes); }

/** Whether `pixels` 32-bit words are the same at both places. */
export function sameRun(a: i32, b: i32, pixels: i32): bool {
  let i = 0;
  const bytes = pixels << 2;
  for (; i + 64 <= bytes; i += 64) {
    const v0 = v128.xor(v128.load(<usize>(a + i)), v128.load(<usize>(b + i)));
    const v1 = v128.xor(v128.load(<usize>(a + i), 16), v128.load(<usize>(b + i), 16));
    const v2 = v128.xor(v128.load(<usize>(a + i), 32), v128.load(<usize>(b + i), 32));
    const v3 = v128.xor(v128.load(<usize>(a + i), 48), v128.load(<usize>(b + i), 48));
    if (v128.any_true(v128.or(v128.or(v0, v1), v128.or(v2, v3)))) return false;
  }
  for (; i < bytes; i += 4) if (load<i32>(<usize>(a + i)) != load<i32>(<usize>(b + i))) return false;
  return true;
}

/** How many words are the same from the start, up to `pixels`. */
export function sameFrom(a: i32, b: i32, pixels: i32): i32 {
  let i = 0;
  for (; i + 4 <= pixels; i += 4) {
    if (v128.any_true(v128.xor(v128.load(<usize>(a + (i << 2))), v128.load(<usize>(b + (i << 2)))))) break;
  }
  while (i < pixels && load<i32>(<usize>(a + (i << 2))) == load<i32>(<usize>(b + (i << 2)))) i++;
  return i;
}

/** Copies words and clears the fourth byte of each, which X servers leave undefined. */
export function copyMasked(to: i32, from: i32, pixels: i32): void {
  let i = 0;
  const mask = i32x4.splat(0xffffff);
  for (; i + 4 <= pixels; i += 4) v128.store(<usize>(to + (i << 2)), v128.and(v128.load(<usize>(from + (i << 2))), mask));
  for (; i < pixels; i++) store<i32>(<usize>(to + (i << 2)), load<i32>(<usize>(from + (i << 2))) & 0xffffff);
}

/** A hash of words at any alignment; the same in both versions of this file. */
export function hashRun(at: i32, pixels: i32): i32 {
  let a = i32x4.splat(0x2545f491);
  let i = 0;
  const k = i32x4(0x9e3779b1, 0x85ebca77, 0xc2b2ae3d, 0x27d4eb2f);
  for (; i + 4 <= pixels; i += 4) {
    a = i32x4.mul(v128.xor(a, v128.load(<usize>(at + (i << 2)))), k);
    a = v128.xor(a, i32x4.shr_u(a, 15));
  }
  let h = i32x4.extract_lane(a, 0) ^ (i32x4.extract_lane(a, 1) * 31) ^ (i32x4.extract_lane(a, 2) * 961) ^ (i32x4.extract_lane(a, 3) * 29791);
  for (; i < pixels; i++) {
    h = (h ^ load<i32>(<usize>(at + (i << 2)))) * 0x9e3779b1;
    h ^= h >>> 15;
  }
  return h;
}
