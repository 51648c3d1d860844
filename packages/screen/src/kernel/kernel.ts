import { kernelWasm } from '../built/kernel-wasm.ts';
import * as boxes from './boxes.ts';
import { useMemory } from './memory.ts';
import * as moves from './moves.ts';
import * as pixels from './pixels.ts';

type Calls = Pick<
  typeof pixels & typeof boxes & typeof moves,
  | 'putRect'
  | 'fillRect'
  | 'greyRect'
  | 'planesRect'
  | 'shrink'
  | 'copyRect'
  | 'moveRect'
  | 'diffTiles'
  | 'clearPalette'
  | 'encodeBox'
  | 'decodeBox'
  | 'findScroll'
  | 'findDrag'
  | 'isMoveWorth'
>;
const callNames = [
  'putRect',
  'fillRect',
  'greyRect',
  'planesRect',
  'shrink',
  'copyRect',
  'moveRect',
  'diffTiles',
  'clearPalette',
  'encodeBox',
  'decodeBox',
  'findScroll',
  'findDrag',
  'isMoveWorth',
] as const satisfies readonly (keyof Calls)[];

export type KernelKind = 'wasm' | 'plain';
export const { PALETTE_BYTES, TRUE_COLOUR } = boxes;
export const { moveScratchBytes } = moves;
export const { CLEAN, SUSPECT, CHANGED } = pixels;

/** Static data of the compiled module lies below. */
const FIRST_BYTE = 4096;
const PAGE_BYTES = 65_536;

/**
 * The code that works on pixels, with memory of its own. All memory is taken when it is made: growing would detach the
 * views that others hold.
 */
export class Kernel {
  readonly kind: KernelKind;
  readonly call: Calls;
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly words: Uint32Array<ArrayBuffer>;
  #free = FIRST_BYTE;

  /** Compiles on the spot, which browsers allow in workers only. */
  constructor(sizeBytes: number, kind: KernelKind) {
    this.kind = kind;
    const pages = Math.ceil((sizeBytes + FIRST_BYTE + 256) / PAGE_BYTES);
    const buffer =
      kind === 'wasm'
        ? new WebAssembly.Memory({ initial: pages, maximum: pages })
        : { buffer: new ArrayBuffer(pages * PAGE_BYTES) };
    this.bytes = new Uint8Array(buffer.buffer as ArrayBuffer);
    this.words = new Uint32Array(buffer.buffer as ArrayBuffer);
    this.call = kind === 'wasm' ? compiledCalls(buffer as WebAssembly.Memory) : plainCalls(this.bytes.buffer);
  }

  /** The address of so many bytes, at a multiple of 16. */
  take(sizeBytes: number): number {
    const at = this.#free;
    this.#free = (at + sizeBytes + 15) & ~15;
    if (this.#free > this.bytes.length) throw new RangeError('the kernel was made too small');
    return at;
  }
}

let compiled: WebAssembly.Module | undefined;

function compiledCalls(memory: WebAssembly.Memory): Calls {
  compiled ??= new WebAssembly.Module(Uint8Array.from(atob(kernelWasm), (c) => c.charCodeAt(0)));
  const { exports } = new WebAssembly.Instance(compiled, { env: { memory } });
  const flag = exports as unknown as Calls;
  // WebAssembly has no booleans.
  return {
    ...flag,
    findScroll: (...args) => Boolean(flag.findScroll(...args)),
    findDrag: (...args) => Boolean(flag.findDrag(...args)),
    isMoveWorth: (...args) => Boolean(flag.isMoveWorth(...args)),
  };
}

function plainCalls(buffer: ArrayBuffer): Calls {
  const all: Record<string, (...args: never[]) => unknown> = { ...pixels, ...boxes, ...moves } as never;
  const bound = callNames.map((name) => [
    name,
    (...args: never[]) => {
      useMemory(buffer);
      return all[name]?.(...args);
    },
  ]);
  return Object.fromEntries(bound) as Calls;
}
