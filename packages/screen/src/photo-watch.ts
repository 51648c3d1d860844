import type { Grid, Rect } from './grid.ts';
import { CHANGED, TRUE_COLOUR } from './kernel/kernel.ts';

/** A rectangle to be encoded with loss. `rgb` holds its pixels, three bytes each. */
export interface PhotoJob {
  readonly rect: Rect;
  readonly tiles: readonly number[];
  readonly rgb: Uint8Array;
}

/** What changed less than this ago, again and again, keeps moving. */
const KEEPS_MOVING_MS = 500;
const LEAST_REPEATS = 2;
const LEAST_TILES = 6;
/** So much of a photo's rectangle must really be moving. */
const LEAST_SHARE = 0.6;

/**
 * Finds what moves like a film: many tiles of more than 256 colours that change again and again. Text never has that
 * many colours, and so is never sent with loss.
 */
export class PhotoWatch {
  readonly #grid: Grid;
  readonly #kinds: Uint8Array;
  readonly #repeats: Uint8Array;
  readonly #changedAtMs: Float64Array;
  #isBusy = false;
  #ready: { job: PhotoJob; jpeg: Uint8Array } | undefined;
  /** Tiles that viewers have with loss, and when that was sent. */
  readonly lossy = new Map<number, number>();
  isAllowed = true;

  constructor(grid: Grid) {
    this.#grid = grid;
    this.#kinds = new Uint8Array(grid.tileCount);
    this.#repeats = new Uint8Array(grid.tileCount);
    this.#changedAtMs = new Float64Array(grid.tileCount);
  }

  isTrueColour(tile: number): boolean {
    return this.#kinds[tile] === TRUE_COLOUR;
  }

  /** A tile was encoded in this way. */
  note(tile: number, kind: number, nowMs: number): void {
    this.#kinds[tile] = kind;
    this.#repeat(tile, nowMs);
  }

  #repeat(tile: number, nowMs: number): void {
    const isSoon = nowMs - (this.#changedAtMs[tile] ?? 0) < KEEPS_MOVING_MS;
    this.#repeats[tile] = isSoon ? Math.min(255, (this.#repeats[tile] ?? 0) + 1) : 0;
    this.#changedAtMs[tile] = nowMs;
  }

  findJob(states: Uint8Array, boxOf: (tile: number) => Rect, nowMs: number): Omit<PhotoJob, 'rgb'> | undefined {
    if (!this.isAllowed || this.#isBusy || this.#ready) return undefined;
    const isMoving = (tile: number) =>
      states[tile] === CHANGED &&
      (this.#repeats[tile] ?? 0) >= LEAST_REPEATS &&
      nowMs - (this.#changedAtMs[tile] ?? 0) < KEEPS_MOVING_MS;
    const moving: number[] = [];
    for (let tile = 0; tile < states.length; tile++)
      if (this.#kinds[tile] === TRUE_COLOUR && isMoving(tile)) moving.push(tile);
    if (moving.length < LEAST_TILES) return undefined;
    const { columns } = this.#grid;
    // The rim of a film lies in tiles of which only a sliver moves.
    const rim = new Set<number>();
    for (const tile of moving)
      for (const near of [
        tile - 1,
        tile + 1,
        tile - columns,
        tile + columns,
        tile - columns - 1,
        tile - columns + 1,
        tile + columns - 1,
        tile + columns + 1,
      ])
        if (near >= 0 && near < states.length && isMoving(near)) rim.add(near);
    for (const tile of moving) rim.add(tile);
    const boxes = [...rim].map((tile) => boxOf(tile));
    const x = Math.min(...boxes.map((b) => b.x));
    const y = Math.min(...boxes.map((b) => b.y));
    const right = Math.max(...boxes.map((b) => b.x + b.width));
    const bottom = Math.max(...boxes.map((b) => b.y + b.height));
    const rect = { x, y, width: right - x, height: bottom - y };
    const area = boxes.reduce((sum, b) => sum + b.width * b.height, 0);
    if (area < LEAST_SHARE * rect.width * rect.height) return undefined;
    return { rect, tiles: [...rim].sort((a, b) => a - b) };
  }

  begin(): void {
    this.#isBusy = true;
  }

  finish(job: PhotoJob, jpeg: Uint8Array): void {
    this.#isBusy = false;
    this.#ready = { job, jpeg };
  }

  takeReady(): { job: PhotoJob; jpeg: Uint8Array } | undefined {
    const ready = this.#ready;
    if (!ready) return undefined;
    this.#ready = undefined;
    return ready;
  }

  /** Tells that a photo with these tiles was sent. */
  noteSent(tiles: readonly number[], nowMs: number): void {
    for (const tile of tiles) this.#repeat(tile, nowMs);
  }

  /** Lossy tiles that have stood still since then. */
  stillSince(ms: number): number[] {
    return [...this.lossy].filter(([, sentAtMs]) => sentAtMs <= ms).map(([tile]) => tile);
  }
}
