import { ByteReader } from './byte-io.ts';
import { gridFor, MAX_PIXELS, tileRect, type Grid, type Rect } from './grid.ts';
import { Kernel, PALETTE_BYTES, type KernelKind } from './kernel/kernel.ts';
import { PictureError } from './picture-error.ts';
import { MAX_BODY_BYTES, unpackBody, type Inflate } from './unit-body.ts';
import { decodeClear, MAX_TILES_PER_UNIT, resolveUnit, type ChangeClear, type UnitClear } from './unit-clear.ts';

/** As many as the tiles that one message may name. */
const MAX_PHOTO_PIXELS = MAX_TILES_PER_UNIT * 64 * 64;

export interface ReceivedUnit {
  readonly kind: 'change' | 'whole' | 'photo';
  readonly number: number;
  readonly generation: number;
  readonly clear: Uint8Array;
  readonly body: Uint8Array;
}

/** A decoded photo: R G B A, row by row. */
export interface PhotoPixels {
  readonly width: number;
  readonly height: number;
  readonly rgba: Uint8Array | Uint8ClampedArray;
}

export interface Taken {
  /** What to paint anew. */
  readonly rects: readonly Rect[];
  readonly isNewSize: boolean;
  /** Tiles that could not be written for want of what they build on. */
  readonly lost: number;
}

/**
 * A picture as one viewer knows it. A message is applied as far as its reads are held, exactly; what it would write
 * otherwise keeps what it shows until the newest comes whole. So nothing older is ever shown after something newer.
 */
export class ViewerPicture {
  readonly #inflate: Inflate;
  readonly #kind: KernelKind;
  readonly #mostPixels: number;
  #kernel: Kernel | undefined;
  #grid: Grid | undefined;
  #picture = 0;
  #palette = 0;
  #body = 0;
  #spare = 0;
  #versions = new Float64Array(0);
  #generation = -1;
  #newest = 0;

  /** `mostPixels`: a display that says it is larger is refused, before any memory is taken for it. */
  constructor(inflate: Inflate, kind: KernelKind = 'wasm', mostPixels = MAX_PIXELS) {
    this.#mostPixels = mostPixels;
    this.#inflate = inflate;
    this.#kind = kind;
  }

  get grid(): Grid | undefined {
    return this.#grid;
  }
  get generation(): number {
    return this.#generation;
  }
  /** The number of the newest message that changed anything. */
  get newestNumber(): number {
    return this.#newest;
  }
  get versions(): Float64Array {
    return this.#versions;
  }
  /** Whether every tile has been shown at least once. */
  get isComplete(): boolean {
    return this.#grid !== undefined && this.#versions.every((version) => version > 0);
  }
  /** The whole picture: R G B A, row by row. A view: it changes. */
  get rgba(): Uint8ClampedArray<ArrayBuffer> {
    if (!this.#kernel || !this.#grid) return new Uint8ClampedArray(0);
    const { width, height } = this.#grid;
    return new Uint8ClampedArray(this.#kernel.bytes.buffer, this.#picture, width * height * 4);
  }

  /** `photo` is the decoded picture of a message of kind photo. Throws PictureError for bad bytes. */
  take(unit: ReceivedUnit, photo?: PhotoPixels): Taken {
    if (unit.generation < this.#generation) return { rects: [], isNewSize: false, lost: 0 };
    const clear = decodeClear(unit.kind === 'whole' ? 'whole' : 'change', unit.clear, unit.number);
    const isNewSize = this.#fit(clear, unit.generation);
    const kernel = this.#kernel;
    const grid = this.#grid;
    if (!kernel || !grid) throw new Error('a picture without memory');
    const resolved = resolveUnit(clear, unit.number, grid, (tile) => this.#versions[tile] ?? Infinity);
    const rects: Rect[] = [];
    if (unit.kind === 'photo') this.#takePhoto(unit, clear as ChangeClear, resolved.boxed, photo, rects);
    else this.#takeBoxes(unit, clear, resolved, rects);
    for (const tile of resolved.moved) this.#versions[tile] = unit.number;
    for (const i of resolved.boxed) {
      if (clear.kind === 'whole') {
        const entry = clear.tiles[i];
        if (entry) this.#versions[entry.tile] = entry.version;
      } else this.#versions[clear.boxes[i]?.tile ?? 0] = unit.number;
    }
    if (rects.length) this.#newest = Math.max(this.#newest, unit.number);
    return { rects, isNewSize, lost: resolved.lost.size };
  }

  /** Nothing is known any longer: the right to look has ended. */
  forget(): void {
    this.#kernel = undefined;
    this.#grid = undefined;
    this.#versions = new Float64Array(0);
    this.#generation = -1;
  }

  #fit(clear: UnitClear, generation: number): boolean {
    if (generation === this.#generation && this.#grid) {
      if (clear.width !== this.#grid.width || clear.height !== this.#grid.height)
        throw new PictureError('a picture message has another size than its generation');
      return false;
    }
    if (clear.width * clear.height > this.#mostPixels)
      throw new PictureError('a display is larger than what is shown here');
    this.#grid = gridFor(clear.width, clear.height);
    this.#generation = generation;
    this.#versions = new Float64Array(this.#grid.tileCount);
    const pictureBytes = clear.width * clear.height * 4;
    this.#kernel = new Kernel(pictureBytes * 2 + PALETTE_BYTES + MAX_BODY_BYTES + 4096, this.#kind);
    this.#picture = this.#kernel.take(pictureBytes);
    this.#spare = this.#kernel.take(pictureBytes);
    this.#palette = this.#kernel.take(PALETTE_BYTES);
    this.#body = this.#kernel.take(MAX_BODY_BYTES);
    return true;
  }

  #takeBoxes(unit: ReceivedUnit, clear: UnitClear, resolved: ReturnType<typeof resolveUnit>, rects: Rect[]): void {
    const kernel = this.#kernel as Kernel;
    const grid = this.#grid as Grid;
    const raw = unpackBody(unit.body, this.#inflate);
    kernel.bytes.set(raw, this.#body);
    kernel.call.clearPalette(this.#palette);
    const end = this.#body + raw.length;
    let at = this.#body;
    if (clear.kind === 'change' && clear.move) at = this.#move(raw, clear, resolved.moved, rects);
    const fitting = new Set(resolved.boxed);
    const tiles = clear.kind === 'whole' ? clear.tiles : clear.boxes;
    tiles.forEach(({ tile }, i) => {
      let rect = tileRect(grid, tile);
      if (clear.kind === 'change') {
        if (at + 4 > end) throw new PictureError('a box is cut short');
        const [x = 0, y = 0, w = 0, h = 0] = kernel.bytes.subarray(at, at + 4);
        at += 4;
        if (x + w >= rect.width || y + h >= rect.height) throw new PictureError('a box lies outside its tile');
        rect = { x: rect.x + x, y: rect.y + y, width: w + 1, height: h + 1 };
      }
      // What does not fit is read all the same, beside the picture, for what comes after it.
      const isFit = fitting.has(i);
      const to = isFit ? this.#picture + (rect.y * grid.width + rect.x) * 4 : this.#spare;
      const stride = isFit ? grid.width : rect.width;
      at = kernel.call.decodeBox(at, end, to, stride, rect.width, rect.height, this.#palette);
      if (at < 0) throw new PictureError('a box is damaged');
      if (isFit) rects.push(rect);
    });
    if (at !== end) throw new PictureError('a picture message has bytes too many');
  }

  #move(raw: Uint8Array, clear: ChangeClear, moved: ReadonlySet<number>, rects: Rect[]): number {
    const kernel = this.#kernel as Kernel;
    const grid = this.#grid as Grid;
    const reader = new ByteReader(raw);
    const rect = { x: reader.u16(), y: reader.u16(), width: reader.u16(), height: reader.u16() };
    const [dx, dy] = [reader.u16() - 32_768, reader.u16() - 32_768];
    const [sx, sy] = [rect.x - dx, rect.y - dy];
    const tiles = clear.move?.tiles;
    const isGood =
      rect.width > 0 &&
      rect.height > 0 &&
      rect.x + rect.width <= grid.width &&
      rect.y + rect.height <= grid.height &&
      sx >= 0 &&
      sy >= 0 &&
      sx + rect.width <= grid.width &&
      sy + rect.height <= grid.height;
    if (!isGood || !tiles) throw new PictureError('a move lies outside the display');
    const { target } = tiles;
    if (moved.size === target.columns * target.rows) {
      kernel.call.moveRect(this.#picture, grid.width, rect.x, rect.y, rect.width, rect.height, dx, dy);
      rects.push(rect);
      return this.#body + reader.at;
    }
    if (!moved.size) return this.#body + reader.at;
    // Only some tiles can be written: from a copy, since what they read may be among what they write.
    kernel.call.copyRect(this.#spare, this.#picture, grid.width, sx, sy, rect.width, rect.height);
    const words = kernel.words;
    for (const tile of moved) {
      const t = tileRect(grid, tile);
      const x = Math.max(t.x, rect.x);
      const y = Math.max(t.y, rect.y);
      const right = Math.min(t.x + t.width, rect.x + rect.width);
      const bottom = Math.min(t.y + t.height, rect.y + rect.height);
      if (right <= x || bottom <= y) continue;
      for (let row = y; row < bottom; row++) {
        const from = (this.#spare >> 2) + (row - dy) * grid.width + x - dx;
        words.copyWithin((this.#picture >> 2) + row * grid.width + x, from, from + right - x);
      }
      rects.push({ x, y, width: right - x, height: bottom - y });
    }
    return this.#body + reader.at;
  }

  #takePhoto(
    unit: ReceivedUnit,
    clear: ChangeClear,
    boxed: readonly number[],
    photo: PhotoPixels | undefined,
    rects: Rect[],
  ): void {
    const grid = this.#grid as Grid;
    const { rect } = readPhoto(unit.body);
    if (!photo || photo.width !== rect.width || photo.height !== rect.height)
      throw new PictureError('a photo has another size than it says');
    if (rect.x + rect.width > grid.width || rect.y + rect.height > grid.height || clear.move)
      throw new PictureError('a photo lies outside the display');
    const words = (this.#kernel as Kernel).words;
    const pixels = new Uint32Array(photo.rgba.buffer, photo.rgba.byteOffset, photo.width * photo.height);
    for (const i of boxed) {
      const t = tileRect(grid, clear.boxes[i]?.tile ?? 0);
      const x = Math.max(t.x, rect.x);
      const y = Math.max(t.y, rect.y);
      const right = Math.min(t.x + t.width, rect.x + rect.width);
      const bottom = Math.min(t.y + t.height, rect.y + rect.height);
      if (right <= x || bottom <= y) throw new PictureError('a photo names a tile it does not touch');
      for (let row = y; row < bottom; row++) {
        const from = (row - rect.y) * photo.width + x - rect.x;
        words.set(pixels.subarray(from, from + right - x), (this.#picture >> 2) + row * grid.width + x);
      }
      rects.push({ x, y, width: right - x, height: bottom - y });
    }
  }
}

/** Where a photo lies, and its JPEG bytes (ITU-T T.81). */
export function readPhoto(body: Uint8Array): { rect: Rect; jpeg: Uint8Array } {
  const reader = new ByteReader(body);
  const rect = { x: reader.u16(), y: reader.u16(), width: reader.u16(), height: reader.u16() };
  if (!rect.width || !rect.height) throw new PictureError('a photo is empty');
  if (rect.width * rect.height > MAX_PHOTO_PIXELS) throw new PictureError('a photo is too large');
  return { rect, jpeg: reader.take(reader.left) };
}
