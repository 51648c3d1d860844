/** A display's picture is a grid of square tiles; those at the right and bottom edge may be smaller. */
export const TILE_PX = 64;
/** Larger displays are refused: 16-bit tile numbers and a bounded memory are worth more. */
export const MAX_SIDE_PX = 16_384;
export const MAX_PIXELS = 8192 * 8192;

export interface Rect {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

export interface Grid {
  readonly width: number;
  readonly height: number;
  readonly columns: number;
  readonly rows: number;
  readonly tileCount: number;
}

export const isGoodSize = (width: number, height: number): boolean =>
  width > 0 && height > 0 && width <= MAX_SIDE_PX && height <= MAX_SIDE_PX && width * height <= MAX_PIXELS;

export function gridFor(width: number, height: number): Grid {
  if (!isGoodSize(width, height)) throw new RangeError(`a display of ${width}×${height} pixels is outside the limits`);
  const columns = Math.ceil(width / TILE_PX);
  const rows = Math.ceil(height / TILE_PX);
  return { width, height, columns, rows, tileCount: columns * rows };
}

export function tileRect(grid: Grid, index: number): Rect {
  const x = (index % grid.columns) * TILE_PX;
  const y = Math.floor(index / grid.columns) * TILE_PX;
  return { x, y, width: Math.min(TILE_PX, grid.width - x), height: Math.min(TILE_PX, grid.height - y) };
}

/** The part of a rectangle that lies on the display; undefined when none does. */
export function clip(rect: Rect, grid: Grid): Rect | undefined {
  const x = Math.max(0, rect.x);
  const y = Math.max(0, rect.y);
  const width = Math.min(rect.x + rect.width, grid.width) - x;
  const height = Math.min(rect.y + rect.height, grid.height) - y;
  return width > 0 && height > 0 ? { x, y, width, height } : undefined;
}

export const tileAt = (grid: Grid, x: number, y: number): number =>
  Math.min(grid.rows - 1, Math.max(0, Math.floor(y / TILE_PX))) * grid.columns +
  Math.min(grid.columns - 1, Math.max(0, Math.floor(x / TILE_PX)));
