import { ByteReader, ByteWriter, readRuns, writeRuns } from './byte-io.ts';
import { gridFor, isGoodSize, TILE_PX, type Grid, type Rect } from './grid.ts';
import { PictureError } from './picture-error.ts';

/*
 * The part of a picture message that the relay can read: which tiles it needs and which it writes, with versions. It is
 * additional data of what is sealed, so nobody can change it. Numbers are LEB128 but for the size.
 *
 *   | width u16 | height u16 | …
 *   change: | moves (0, 1) | move … | boxes | each: tile step × 2 + needs base | (number - base) if it does |
 *   whole:  | tiles | each: tile step | number - version |
 *   move:   | target c r cols rows | origin c r cols rows | step c r (signed) | flags | runs of (number - version) |
 *
 * A version is the number of the message that last changed the tile. A base of the message's own number means: as this
 * message's move has left it.
 */
export interface TileSpan {
  readonly column: number;
  readonly row: number;
  readonly columns: number;
  readonly rows: number;
}

/** A shift, as far as tiles show it. The tiles of `origin` are read; those of `target` are written. */
export interface MoveTiles {
  readonly target: TileSpan;
  readonly origin: TileSpan;
  /** From a target tile to the first tile it reads. */
  readonly stepColumns: number;
  readonly stepRows: number;
  /** Whether a target tile reads two tiles side by side, and two above one another. */
  readonly isWide: boolean;
  readonly isTall: boolean;
  /** Whether the target's outer tiles keep pixels of their own. */
  readonly keepsLeft: boolean;
  readonly keepsTop: boolean;
  readonly keepsRight: boolean;
  readonly keepsBottom: boolean;
}
export interface MoveClear {
  readonly tiles: MoveTiles;
  /** The tiles that are read, ascending, and of each the version it must have. */
  readonly reads: Uint16Array;
  readonly versions: Float64Array;
}
export interface BoxClear {
  readonly tile: number;
  /** The version the tile must have; undefined when the box is the whole tile. */
  readonly base: number | undefined;
}
export interface ChangeClear {
  readonly kind: 'change';
  readonly width: number;
  readonly height: number;
  readonly move: MoveClear | undefined;
  readonly boxes: readonly BoxClear[];
}
export interface WholeClear {
  readonly kind: 'whole';
  readonly width: number;
  readonly height: number;
  readonly tiles: readonly { readonly tile: number; readonly version: number }[];
}
export type UnitClear = ChangeClear | WholeClear;

/** More tiles than this in one message are refused: nobody has to hold more than this much at once. */
export const MAX_TILES_PER_UNIT = 1024;

export function moveTilesFor(grid: Grid, rect: Rect, dx: number, dy: number): MoveTiles {
  const target = spanOf(rect);
  return {
    target,
    origin: spanOf({ ...rect, x: rect.x - dx, y: rect.y - dy }),
    stepColumns: Math.floor(-dx / TILE_PX),
    stepRows: Math.floor(-dy / TILE_PX),
    isWide: dx % TILE_PX !== 0,
    isTall: dy % TILE_PX !== 0,
    keepsLeft: rect.x % TILE_PX !== 0,
    keepsTop: rect.y % TILE_PX !== 0,
    keepsRight: rect.x + rect.width !== Math.min(grid.width, (target.column + target.columns) * TILE_PX),
    keepsBottom: rect.y + rect.height !== Math.min(grid.height, (target.row + target.rows) * TILE_PX),
  };
}

function spanOf(rect: Rect): TileSpan {
  const column = Math.floor(rect.x / TILE_PX);
  const row = Math.floor(rect.y / TILE_PX);
  return {
    column,
    row,
    columns: Math.ceil((rect.x + rect.width) / TILE_PX) - column,
    rows: Math.ceil((rect.y + rect.height) / TILE_PX) - row,
  };
}

const isWithin = (span: TileSpan, column: number, row: number) =>
  column >= span.column && row >= span.row && column < span.column + span.columns && row < span.row + span.rows;

/** Calls with each tile the move writes, and the tiles it needs for that. */
export function eachMoved(move: MoveTiles, grid: Grid, visit: (tile: number, needs: number[]) => void): void {
  const { target, origin } = move;
  for (let r = target.row; r < target.row + target.rows; r++)
    for (let c = target.column; c < target.column + target.columns; c++) {
      const tile = r * grid.columns + c;
      const needs: number[] = [];
      for (let j = 0; j <= (move.isTall ? 1 : 0); j++)
        for (let i = 0; i <= (move.isWide ? 1 : 0); i++) {
          const [column, row] = [c + move.stepColumns + i, r + move.stepRows + j];
          if (isWithin(origin, column, row)) needs.push(row * grid.columns + column);
        }
      const keeps =
        (move.keepsLeft && c === target.column) ||
        (move.keepsTop && r === target.row) ||
        (move.keepsRight && c === target.column + target.columns - 1) ||
        (move.keepsBottom && r === target.row + target.rows - 1);
      if (keeps && !needs.includes(tile)) needs.push(tile);
      visit(tile, needs);
    }
}

/** Every tile a move reads, in ascending order: both sides know the order in which versions are listed. */
export function readTiles(move: MoveTiles, grid: Grid): Uint16Array {
  const { target, origin } = move;
  const marks = new Uint8Array(grid.tileCount);
  const mark = (fromColumn: number, fromRow: number, toColumn: number, toRow: number) => {
    for (let row = fromRow; row < toRow; row++)
      marks.fill(1, row * grid.columns + fromColumn, row * grid.columns + Math.max(fromColumn, toColumn));
  };
  // All that the target's tiles read together is the target, shifted, within the origin: a rectangle.
  mark(
    Math.max(origin.column, target.column + move.stepColumns),
    Math.max(origin.row, target.row + move.stepRows),
    Math.min(origin.column + origin.columns, target.column + target.columns + move.stepColumns + (move.isWide ? 1 : 0)),
    Math.min(origin.row + origin.rows, target.row + target.rows + move.stepRows + (move.isTall ? 1 : 0)),
  );
  const [right, bottom] = [target.column + target.columns, target.row + target.rows];
  if (move.keepsLeft) mark(target.column, target.row, target.column + 1, bottom);
  if (move.keepsRight) mark(right - 1, target.row, right, bottom);
  if (move.keepsTop) mark(target.column, target.row, right, target.row + 1);
  if (move.keepsBottom) mark(target.column, bottom - 1, right, bottom);
  let count = 0;
  for (const isRead of marks) count += isRead;
  const tiles = new Uint16Array(count);
  for (let tile = 0, at = 0; at < count; tile++) if (marks[tile]) tiles[at++] = tile;
  return tiles;
}

export function encodeClear(clear: UnitClear, number: number): Uint8Array {
  const out = new ByteWriter();
  out.u16(clear.width);
  out.u16(clear.height);
  if (clear.kind === 'whole') {
    out.varint(clear.tiles.length);
    let last = 0;
    for (const { tile, version } of clear.tiles) {
      out.varint(tile - last);
      out.varint(number - version);
      last = tile;
    }
    return out.bytes;
  }
  out.varint(clear.move ? 1 : 0);
  if (clear.move) writeMove(out, clear.move, number);
  out.varint(clear.boxes.length);
  let last = 0;
  for (const { tile, base } of clear.boxes) {
    out.varint((tile - last) * 2 + (base === undefined ? 0 : 1));
    if (base !== undefined) out.varint(number - base);
    last = tile;
  }
  return out.bytes;
}

function writeMove(out: ByteWriter, { tiles, versions }: MoveClear, number: number): void {
  for (const span of [tiles.target, tiles.origin])
    for (const value of [span.column, span.row, span.columns, span.rows]) out.varint(value);
  out.signed(tiles.stepColumns);
  out.signed(tiles.stepRows);
  const flags = [tiles.isWide, tiles.isTall, tiles.keepsLeft, tiles.keepsTop, tiles.keepsRight, tiles.keepsBottom];
  out.byte(flags.reduce((sum, flag, i) => sum | (flag ? 1 << i : 0), 0));
  writeRuns(
    out,
    versions.map((version) => number - version),
  );
}

/** Throws PictureError for anything that is not exactly a clear part. */
export function decodeClear(kind: UnitClear['kind'], bytes: Uint8Array, number: number): UnitClear {
  const reader = new ByteReader(bytes);
  const width = reader.u16();
  const height = reader.u16();
  if (!isGoodSize(width, height)) throw new PictureError('a picture message names an impossible size');
  const grid = gridFor(width, height);
  const clear = kind === 'whole' ? readWhole(reader, grid, number) : readChange(reader, grid, number);
  if (reader.left) throw new PictureError('a picture message has bytes too many');
  return clear;
}

function readWhole(reader: ByteReader, grid: Grid, number: number): WholeClear {
  const count = reader.varint();
  if (count < 1 || count > MAX_TILES_PER_UNIT)
    throw new PictureError('a picture message holds too many tiles, or none');
  const tiles: { tile: number; version: number }[] = [];
  let tile = 0;
  for (let i = 0; i < count; i++) {
    tile = nextTile(tile, reader.varint(), i, grid);
    tiles.push({ tile, version: versionOf(number, reader.varint()) });
  }
  return { kind: 'whole', width: grid.width, height: grid.height, tiles };
}

function readChange(reader: ByteReader, grid: Grid, number: number): ChangeClear {
  const moves = reader.varint();
  if (moves > 1) throw new PictureError('a picture message holds too many moves');
  const move = moves ? readMove(reader, grid, number) : undefined;
  const count = reader.varint();
  if (count > MAX_TILES_PER_UNIT) throw new PictureError('a picture message holds too many tiles');
  const boxes: BoxClear[] = [];
  let tile = 0;
  for (let i = 0; i < count; i++) {
    const step = reader.varint();
    tile = nextTile(tile, Math.floor(step / 2), i, grid);
    boxes.push({ tile, base: step % 2 ? versionOf(number, reader.varint()) : undefined });
  }
  return { kind: 'change', width: grid.width, height: grid.height, move, boxes };
}

function readMove(reader: ByteReader, grid: Grid, number: number): MoveClear {
  const span = (): TileSpan => {
    const [column, row, columns, rows] = [reader.varint(), reader.varint(), reader.varint(), reader.varint()];
    if (!columns || !rows || column + columns > grid.columns || row + rows > grid.rows)
      throw new PictureError('a move lies outside the display');
    return { column, row, columns, rows };
  };
  const target = span();
  const origin = span();
  const stepColumns = reader.signed();
  const stepRows = reader.signed();
  const flags = reader.byte();
  if (flags > 63) throw new PictureError('a move has an unknown flag');
  const tiles: MoveTiles = {
    target,
    origin,
    stepColumns,
    stepRows,
    isWide: (flags & 1) > 0,
    isTall: (flags & 2) > 0,
    keepsLeft: (flags & 4) > 0,
    keepsTop: (flags & 8) > 0,
    keepsRight: (flags & 16) > 0,
    keepsBottom: (flags & 32) > 0,
  };
  const reads = readTiles(tiles, grid);
  const versions = readRuns(reader, reads.length);
  for (let i = 0; i < versions.length; i++) versions[i] = versionOf(number, versions[i] ?? 0);
  return { tiles, reads, versions };
}

/** Tiles ascend, so that none can come twice. */
function nextTile(last: number, step: number, index: number, grid: Grid): number {
  const tile = last + step;
  if ((index > 0 && step < 1) || tile >= grid.tileCount)
    throw new PictureError('a picture message names a tile twice, or one outside the display');
  return tile;
}

function versionOf(number: number, age: number): number {
  if (age > number) throw new PictureError('a picture message names a version before the first');
  return number - age;
}

/**
 * What a message does to somebody who holds `versionOf(tile)` of each tile: which it can write and which it cannot, for
 * want of what it reads. The relay asks this for each viewer, and each viewer for itself: they must agree.
 */
export function resolveUnit(
  clear: UnitClear,
  number: number,
  grid: Grid,
  held: (tile: number) => number,
): { moved: Set<number>; boxed: number[]; lost: Set<number> } {
  const moved = new Set<number>();
  const lost = new Set<number>();
  if (clear.kind === 'whole')
    return { moved, boxed: clear.tiles.flatMap(({ tile, version }, i) => (version > held(tile) ? [i] : [])), lost };
  if (clear.move) {
    const { tiles, reads, versions } = clear.move;
    const wanted = new Float64Array(grid.tileCount);
    reads.forEach((tile, i) => (wanted[tile] = versions[i] ?? 0));
    eachMoved(tiles, grid, (tile, needs) => {
      const isHeld = held(tile) < number && needs.every((need) => held(need) === wanted[need]);
      (isHeld ? moved : lost).add(tile);
    });
  }
  const boxed: number[] = [];
  clear.boxes.forEach(({ tile, base }, i) => {
    const isFit =
      held(tile) < number && (base === undefined || (base === number ? moved.has(tile) : held(tile) === base));
    if (isFit) {
      boxed.push(i);
      lost.delete(tile);
    } else {
      moved.delete(tile);
      lost.add(tile);
    }
  });
  return { moved, boxed, lost };
}
