import { clip, gridFor, tileRect, TILE_PX, type Grid, type Rect } from './grid.ts';
import { encodeUpdate, MAX_TILES_PER_UPDATE, type Deflate, type TileVersion } from './update-codec.ts';

/** Whether two runs of pixels are the same; handed in because Node compares memory ten times faster than a loop. */
export type SameRun = (a: Uint32Array, aStart: number, b: Uint32Array, bStart: number, length: number) => boolean;

export const sameRunInPlainCode: SameRun = (a, aStart, b, bStart, length) => {
  for (let i = 0; i < length; i++) if (a[aStart + i] !== b[bStart + i]) return false;
  return true;
};

export interface SourceUpdate {
  readonly number: number;
  readonly payload: Uint8Array;
}

/**
 * The picture at its source. Changes only mark tiles; a tile is encoded when there is credit to send it, as it looks
 * then. So a slow line costs freshness and never a queue.
 */
export class TileSource {
  readonly grid: Grid;
  readonly pixels: Uint32Array;
  readonly #changed = new Set<number>();
  readonly #deflate: Deflate;
  readonly #sameRun: SameRun;
  #updateNumber: number;
  #isKnown = false;

  /** `firstUpdate` goes on from the last generation's, so that numbers only grow. */
  constructor(width: number, height: number, deflate: Deflate, sameRun: SameRun = sameRunInPlainCode, firstUpdate = 1) {
    this.grid = gridFor(width, height);
    this.pixels = new Uint32Array(width * height);
    this.#deflate = deflate;
    this.#sameRun = sameRun;
    this.#updateNumber = firstUpdate - 1;
  }

  get updateNumber(): number {
    return this.#updateNumber;
  }
  get changedTiles(): number {
    return this.#changed.size;
  }

  /** Takes fresh pixels of one rectangle, `rect.width` words a row, and marks the tiles that really differ. */
  put(rect: Rect, fresh: Uint32Array): void {
    const on = clip(rect, this.grid);
    if (!on) return;
    const { columns, width } = this.grid;
    for (let y = on.y; y < on.y + on.height; y++) {
      const freshRow = (y - rect.y) * rect.width - rect.x;
      if (this.#isKnown && this.#sameRun(this.pixels, y * width + on.x, fresh, freshRow + on.x, on.width)) continue;
      const tileRow = Math.floor(y / TILE_PX) * columns;
      for (let x = on.x; x < on.x + on.width;) {
        const column = Math.floor(x / TILE_PX);
        const end = Math.min((column + 1) * TILE_PX, on.x + on.width);
        if (!this.#isKnown || !this.#sameRun(this.pixels, y * width + x, fresh, freshRow + x, end - x)) {
          this.pixels.set(fresh.subarray(freshRow + x, freshRow + end), y * width + x);
          this.#changed.add(tileRow + column);
        }
        x = end;
      }
    }
  }

  /** Once the whole picture has been put, only differences count. */
  markKnown(): void {
    this.#isKnown = true;
  }

  /** The relay has lost these, or never had them. */
  markWanted(tiles: Iterable<number>): void {
    for (const tile of tiles) if (tile < this.grid.tileCount) this.#changed.add(tile);
  }

  markAllWanted(): void {
    for (let tile = 0; tile < this.grid.tileCount; tile++) this.#changed.add(tile);
  }

  /** The next update, nearest to `focus` first; undefined when nothing is news. */
  nextUpdate(focus?: { x: number; y: number }): SourceUpdate | undefined {
    if (!this.#changed.size) return undefined;
    const chosen = focus ? this.#nearest(focus) : [...take(this.#changed, MAX_TILES_PER_UPDATE)];
    const number = ++this.#updateNumber;
    for (const tile of chosen) this.#changed.delete(tile);
    const tiles: TileVersion[] = chosen.map((tile) => ({ tile, version: number }));
    return { number, payload: encodeUpdate(this.pixels, this.grid, tiles, this.#deflate) };
  }

  #nearest(focus: { x: number; y: number }): number[] {
    if (this.#changed.size <= MAX_TILES_PER_UPDATE) return [...this.#changed];
    const distance = (tile: number) => {
      const { x, y, width, height } = tileRect(this.grid, tile);
      return Math.abs(x + width / 2 - focus.x) + Math.abs(y + height / 2 - focus.y);
    };
    return [...this.#changed].sort((a, b) => distance(a) - distance(b)).slice(0, MAX_TILES_PER_UPDATE);
  }
}

function* take<T>(items: Iterable<T>, count: number): Generator<T> {
  let left = count;
  for (const item of items) {
    if (left-- <= 0) return;
    yield item;
  }
}
