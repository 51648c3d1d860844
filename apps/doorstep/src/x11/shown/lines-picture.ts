import type { Rect } from '@porch/screen';
import { escapeXml } from '../server/svg-text.ts';
import { renderRgba } from '../server/text-picture.ts';
import type { ShownPicture } from './shown-window.ts';

const [FONT_PX, ROW_PX, MARGIN_PX] = [14, 18, 8];
/** How wide each letter of DejaVu Sans Mono is, for one of its height. */
const ADVANCE = 0.602;
const [GROUND, INK] = ['#10262a', '#e9f2ee'];
/** The ground as bytes of red, green, blue and alpha. */
const GROUND_PIXEL = [0x10, 0x26, 0x2a, 0xff];
/** A screen that is larger is shown as far as this. */
const [MOST_COLUMNS, MOST_ROWS] = [240, 100];

/** Where a row begins, in pixels. */
const topOf = (row: number): number => MARGIN_PX + row * ROW_PX;
const svgOf = (rows: readonly string[], width: number): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${rows.length * ROW_PX}" font-family="DejaVu Sans Mono" font-size="${FONT_PX}">
    <rect width="100%" height="100%" fill="${GROUND}"/>
    ${rows
      .map((text, i) =>
        text
          ? `<text x="${MARGIN_PX}" y="${i * ROW_PX + FONT_PX}" fill="${INK}" xml:space="preserve">${escapeXml(text)}</text>`
          : '',
      )
      .join('')}
  </svg>`;

/** Lines of text as a picture, of which only what changed is drawn anew. */
export class LinesPicture implements ShownPicture {
  #rgba = new Uint8ClampedArray();
  #grid: ShownPicture['grid'];
  #rows: readonly string[] = [];

  get rgba(): Uint8ClampedArray {
    return this.#rgba;
  }
  get grid(): ShownPicture['grid'] {
    return this.#grid;
  }

  /** Answers what of it changed; undefined when it has another size now. */
  async draw(lines: readonly string[], columns: number): Promise<readonly Rect[] | undefined> {
    const rows = lines.slice(0, MOST_ROWS).map((text) => text.slice(0, MOST_COLUMNS));
    const width = Math.ceil(Math.min(columns, MOST_COLUMNS) * FONT_PX * ADVANCE) + 2 * MARGIN_PX;
    const height = rows.length * ROW_PX + 2 * MARGIN_PX;
    const isNew = this.#grid?.width !== width || this.#grid.height !== height;
    if (isNew) this.#begin(width, height, rows.length);
    const changed = rows.flatMap((text, row) => (text === this.#rows[row] ? [] : [row]));
    const [first, last] = [changed[0], changed.at(-1)];
    this.#rows = rows;
    if (first === undefined || last === undefined) return isNew ? undefined : [];
    const { pixels } = await renderRgba(svgOf(rows.slice(first, last + 1), width));
    this.#rgba.set(pixels, topOf(first) * width * 4);
    return isNew ? undefined : [{ x: 0, y: topOf(first), width, height: (last - first + 1) * ROW_PX }];
  }

  /** Nothing but ground. */
  #begin(width: number, height: number, rows: number): void {
    this.#rgba = new Uint8ClampedArray(width * height * 4);
    new Uint32Array(this.#rgba.buffer).fill(new Uint32Array(new Uint8Array(GROUND_PIXEL).buffer)[0] ?? 0);
    this.#grid = { width, height };
    this.#rows = Array.from({ length: rows }, () => '');
  }
}
