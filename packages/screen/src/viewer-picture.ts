import { gridFor, tileRect, type Grid, type Rect } from './grid.ts';
import { decodeClearPart, decodeTiles, type Inflate } from './update-codec.ts';

export interface PaintedTile {
  readonly rect: Rect;
  readonly rgba: Uint8ClampedArray<ArrayBuffer>;
}

/** A picture as one viewer knows it: of each tile the newest version that arrived, in any order of arrival. */
export class ViewerPicture {
  readonly #inflate: Inflate;
  #grid: Grid | undefined;
  #versions = new Float64Array(0);
  #generation = -1;
  #newestUpdate = 0;

  constructor(inflate: Inflate) {
    this.#inflate = inflate;
  }

  get grid(): Grid | undefined {
    return this.#grid;
  }
  get generation(): number {
    return this.#generation;
  }
  get newestUpdate(): number {
    return this.#newestUpdate;
  }
  get isComplete(): boolean {
    return this.#grid !== undefined && this.#versions.every((version) => version > 0);
  }

  /** What to paint, and whether the display has another size than before. Throws PictureError for bad bytes. */
  take(payload: Uint8Array, generation: number): { tiles: PaintedTile[]; isNewSize: boolean } {
    if (generation < this.#generation) return { tiles: [], isNewSize: false };
    const clear = decodeClearPart(payload);
    const decoded = decodeTiles(payload, clear, this.#inflate);
    let isNewSize = false;
    if (generation > this.#generation || !this.#grid) {
      this.#generation = generation;
      this.#grid = gridFor(clear.width, clear.height);
      this.#versions = new Float64Array(this.#grid.tileCount);
      isNewSize = true;
    }
    const grid = this.#grid;
    const tiles: PaintedTile[] = [];
    for (const { tile, version, rgba } of decoded) {
      if (version <= (this.#versions[tile] ?? Infinity)) continue;
      this.#versions[tile] = version;
      this.#newestUpdate = Math.max(this.#newestUpdate, version);
      tiles.push({ rect: tileRect(grid, tile), rgba });
    }
    return { tiles, isNewSize };
  }

  /** Nothing is known any longer: the right to look has ended. */
  forget(): void {
    this.#grid = undefined;
    this.#versions = new Float64Array(0);
    this.#generation = -1;
  }
}
