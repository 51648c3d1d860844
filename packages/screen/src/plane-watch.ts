import type { Rect } from './grid.ts';
import { Kernel, SUSPECT, type KernelKind } from './kernel/kernel.ts';

/** How the numbers of a video frame mean colours: ITU-T H.273, by the names that W3C WebCodecs has for them. */
export interface PlaneColours {
  readonly isFullRange: boolean;
  /** 'bt709', 'smpte170m' and the like; what is not known counts as BT.709. */
  readonly matrix: string | null;
}
/** Where each plane lies in `PlaneWatch.bytes`: for WebCodecs' `copyTo`. */
export interface PlaneLayout {
  readonly offset: number;
  readonly stride: number;
}

/** Shares of red and blue in the luma of a matrix. */
const shares: Readonly<Record<string, readonly [number, number]>> = {
  bt709: [0.2126, 0.0722],
  smpte170m: [0.299, 0.114],
  bt470bg: [0.299, 0.114],
  'bt2020-ncl': [0.2627, 0.0593],
};
/** The kernel compares squares of 64 words; here a word is four samples of a row. */
const SQUARE = 64;
const SAMPLES = 4;

/**
 * Finds what changed between video frames in I420, and turns only that into pixels. Colour comes at half the resolution
 * from whoever captured; nothing is lost after that.
 */
export class PlaneWatch {
  readonly width: number;
  readonly height: number;
  readonly layout: readonly [PlaneLayout, PlaneLayout, PlaneLayout];
  readonly #kernel: Kernel;
  readonly #planes: readonly { words: number; rows: number; now: number; then: number; byte: number }[];
  readonly #now: number;
  readonly #then: number;
  readonly #frameBytes: number;
  readonly #states: number;
  readonly #boxes: number;
  readonly #out: number;
  #isFirst = true;

  constructor(width: number, height: number, kind: KernelKind = 'wasm') {
    this.width = width;
    this.height = height;
    const half = { width: (width + 1) >> 1, height: (height + 1) >> 1 };
    const words = [width, half.width, half.width].map((w) => Math.ceil(w / SAMPLES)) as [number, number, number];
    const rows = [height, half.height, half.height] as const;
    const offsets = [0, words[0] * 4 * rows[0], words[0] * 4 * rows[0] + words[1] * 4 * rows[1]] as const;
    this.#frameBytes = offsets[2] + words[2] * 4 * rows[2];
    const squares = Math.ceil(words[0] / SQUARE) * Math.ceil(height / SQUARE);
    this.#kernel = new Kernel(this.#frameBytes * 2 + squares * 5 + width * height * 4 + 256, kind);
    this.#now = this.#kernel.take(this.#frameBytes);
    this.#then = this.#kernel.take(this.#frameBytes);
    this.#states = this.#kernel.take(squares);
    this.#boxes = this.#kernel.take(squares * 4);
    this.#out = this.#kernel.take(width * height * 4);
    const layout = (plane: 0 | 1 | 2): PlaneLayout => ({ offset: offsets[plane], stride: words[plane] * 4 });
    this.layout = [layout(0), layout(1), layout(2)];
    this.#planes = ([0, 1, 2] as const).map((plane) => ({
      words: words[plane],
      rows: rows[plane],
      now: this.#now + offsets[plane],
      then: this.#then + offsets[plane],
      byte: plane === 0 ? SAMPLES : SAMPLES * 2,
    }));
  }

  /** Where the next frame goes. Samples beyond the width are never shown, but must stay as they are. */
  get bytes(): Uint8Array<ArrayBuffer> {
    return this.#kernel.bytes.subarray(this.#now, this.#now + this.#frameBytes);
  }

  /**
   * What differs between the frame in `bytes` and the one before, as words 0x00RRGGBB, valid until the next call; all of
   * it when asked, and the first time. Rectangles may touch, not overlap.
   */
  take(colours: PlaneColours, isAll: boolean): { rect: Rect; pixels: Uint32Array }[] {
    const all = { x: 0, y: 0, width: this.width, height: this.height };
    const rects = isAll || this.#isFirst ? [all] : this.#differences();
    this.#isFirst = false;
    if (rects.length) this.#kernel.bytes.copyWithin(this.#then, this.#now, this.#now + this.#frameBytes);
    const [luma, blue, red] = this.layout;
    let at = this.#out;
    return rects.map((rect) => {
      const { x, y, width, height } = rect;
      this.#kernel.call.planesRect(
        ...([
          this.#now + luma.offset,
          luma.stride,
          this.#now + blue.offset,
          this.#now + red.offset,
          blue.stride,
        ] as const),
        ...([at, x, y, width, height] as const),
        ...coefficients(colours),
      );
      const pixels = this.#kernel.words.subarray(at >> 2, (at >> 2) + width * height);
      at += width * height * 4;
      return { rect, pixels };
    });
  }

  #differences(): Rect[] {
    const { call, bytes, words } = this.#kernel;
    // Differences of all planes in one raster of squares, so that no pixel is told twice.
    const squares = new Map<number, Rect>();
    for (const [index, plane] of this.#planes.entries()) {
      const columns = Math.ceil(plane.words / SQUARE);
      const count = columns * Math.ceil(plane.rows / SQUARE);
      bytes.fill(SUSPECT, this.#states, this.#states + count);
      if (!call.diffTiles(plane.now, plane.then, plane.words, plane.rows, this.#states, this.#boxes)) continue;
      const scale = index === 0 ? 1 : 2;
      for (let square = 0; square < count; square++) {
        const box = (words[(this.#boxes >> 2) + square] ?? 0) | 0;
        if (box === -1) continue;
        const left = ((square % columns) * SQUARE + (box & 63)) * plane.byte;
        const top = (Math.floor(square / columns) * SQUARE + ((box >> 6) & 63)) * scale;
        const width = (((box >> 12) & 63) + 1) * plane.byte;
        const height = (((box >> 18) & 63) + 1) * scale;
        this.#spread(squares, { x: left, y: top, width, height });
      }
    }
    return [...squares.values()];
  }

  /** Adds a rectangle to each square of the luma plane that it touches. */
  #spread(squares: Map<number, Rect>, { x, y, width, height }: Rect): void {
    const [w, h] = [SQUARE * SAMPLES, SQUARE];
    const columns = Math.ceil(this.width / w);
    const right = Math.min(x + width, this.width);
    const bottom = Math.min(y + height, this.height);
    for (let row = Math.floor(y / h); row * h < bottom; row++)
      for (let column = Math.floor(x / w); column * w < right; column++) {
        const key = row * columns + column;
        const known = squares.get(key);
        const x0 = Math.max(x, column * w);
        const y0 = Math.max(y, row * h);
        const x1 = Math.min(right, (column + 1) * w);
        const y1 = Math.min(bottom, (row + 1) * h);
        const left = Math.min(known?.x ?? x0, x0);
        const top = Math.min(known?.y ?? y0, y0);
        squares.set(key, {
          x: left,
          y: top,
          width: Math.max(known ? known.x + known.width : x1, x1) - left,
          height: Math.max(known ? known.y + known.height : y1, y1) - top,
        });
      }
  }
}

function coefficients({ isFullRange, matrix }: PlaneColours) {
  const [kr, kb] = shares[matrix ?? 'bt709'] ?? [0.2126, 0.0722];
  const kg = 1 - kr - kb;
  const [yLow, yScale, chroma] = isFullRange ? [0, 1, 1] : [16, 255 / 219, 255 / 224];
  const fixed = (value: number) => Math.round(value * 65_536);
  return [
    yLow,
    fixed(yScale),
    fixed(2 * (1 - kr) * chroma),
    fixed(((2 * (1 - kb) * kb) / kg) * chroma),
    fixed(((2 * (1 - kr) * kr) / kg) * chroma),
    fixed(2 * (1 - kb) * chroma),
  ] as const;
}
