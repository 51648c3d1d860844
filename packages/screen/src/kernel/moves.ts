/*
 * Finding the one best shift between two pictures. What is found is a hint: it is applied to the older picture on both
 * sides, and whatever it got wrong is sent as boxes. `states` says which tiles changed; `scratch` is laid out below.
 */
import { fillBytes, hashRun, load32, load8, mul32, sameRun, store32, store8 } from './memory.ts';
import { CHANGED, TILE } from './pixels.ts';

const TABLE_PLACES: i32 = 4096;
/** More rows than this of one column are not looked at: the table stays thin. */
const MAX_ROWS: i32 = 3000;
/** A shift counts when at least so many rows of text speak for it. */
const LEAST_VOTES: i32 = 8;
const LEAST_RUN: i32 = 20;
/** Columns that are asked how far they were shifted. */
const MOST_HEARD: i32 = 10;
const ANCHOR: i32 = 16;
const MAX_ANCHORS: i32 = 96;
const MAX_SHIFTS: i32 = 64;
const CELL: i32 = 16;
const FILTER_BYTES: i32 = 8192;

/** Bytes of scratch for a picture of this size. */
export function moveScratchBytes(width: i32, height: i32): i32 {
  const cells = ((width + CELL - 1) >> 4) * ((height + CELL - 1) >> 4);
  return (
    height * 8 +
    TABLE_PLACES * 8 +
    (2 * height + 1) * 4 +
    FILTER_BYTES +
    MAX_ANCHORS * 16 +
    MAX_SHIFTS * 16 +
    cells +
    64
  );
}

/** Writes x, y, width, height, dx, dy to `out`; false when nothing is worth it. */
export function findScroll(now: i32, then: i32, width: i32, height: i32, states: i32, out: i32, scratch: i32): bool {
  const columns = (width + TILE - 1) >> 6;
  const rows = (height + TILE - 1) >> 6;
  const hashNow = scratch;
  const hashThen = hashNow + height * 4;
  const table = hashThen + height * 4;
  const votes = table + TABLE_PLACES * 8;
  fillBytes(votes, 0, (2 * height + 1) * 4);
  let candidates: i32 = 0;
  for (let c: i32 = 0; c < columns; c++) if (isTall(changedRows(states, columns, rows, c, height))) candidates++;
  // Most columns say the same, so that some of them, spread over the width, are heard for all.
  const stride = ((candidates + MOST_HEARD - 1) / MOST_HEARD) | 0;
  let candidate: i32 = 0;
  for (let c: i32 = 0; c < columns; c++) {
    const range = changedRows(states, columns, rows, c, height);
    const y0 = range >> 16;
    const y1 = range & 0xffff;
    if (!isTall(range) || candidate++ % stride !== 0) continue;
    hashColumn(now, width, c, y0, y1, hashNow);
    hashColumn(then, width, c, y0, y1, hashThen);
    fillTable(table, hashThen, y0, y1);
    for (let y = y0; y < y1; y++) {
      const h = load32(hashNow + (y << 2));
      if (h === load32(hashThen + (y << 2)) || (y > y0 && h === load32(hashNow + ((y - 1) << 2)))) continue;
      const from = lookUp(table, h);
      if (from >= 0) {
        const vote = votes + ((y - from + height) << 2);
        store32(vote, load32(vote) + 1);
      }
    }
  }
  let dy: i32 = 0;
  let most: i32 = LEAST_VOTES - 1;
  for (let d: i32 = -height; d <= height; d++) {
    const count = load32(votes + ((d + height) << 2));
    if (d !== 0 && count > most) {
      most = count;
      dy = d;
    }
  }
  if (dy === 0) return false;
  // The column where the shift holds longest, or for nine tenths of it, says from where to where.
  let seed: i32 = -1;
  let top: i32 = 0;
  let bottom: i32 = 0;
  for (let c: i32 = 0; c < columns; c++) {
    const range = changedRows(states, columns, rows, c, height);
    let y = range >> 16;
    let y1 = range & 0xffff;
    if ((y1 - y) * 9 <= (bottom - top) * 10) continue;
    if (y < dy) y = dy;
    if (y1 > height + dy) y1 = height + dy;
    const x = c << 6;
    const w = width - x < TILE ? width - x : TILE;
    let start: i32 = -1;
    let misses: i32 = 0;
    for (; y <= y1; y++) {
      const at = (y * width + x) << 2;
      const isSame = y < y1 && sameRun(now + at, then + at - ((dy * width) << 2), w);
      if (isSame) {
        if (start < 0) start = y;
        misses = 0;
      } else if (start >= 0 && (++misses === 4 || y === y1)) {
        // A caret or an underlined link in between does not end a run.
        const end = y - misses + 1;
        if (end - start > bottom - top) {
          seed = c;
          top = start;
          bottom = end;
        }
        start = -1;
        misses = 0;
      }
    }
  }
  if (bottom - top < LEAST_RUN) return false;
  let left = seed << 6;
  let right = left + TILE < width ? left + TILE : width;
  for (let step: i32 = TILE; step >= 1; step >>= 1) {
    while (left - step >= 0 && stripMoved(now, then, width, left - step, step, top, bottom, dy)) left -= step;
    while (right + step <= width && stripMoved(now, then, width, right, step, top, bottom, dy)) right += step;
  }
  store32(out, left);
  store32(out + 4, top);
  store32(out + 8, right - left);
  store32(out + 12, bottom - top);
  store32(out + 16, 0);
  store32(out + 20, dy);
  return true;
}

/** A column in which one tile changed says little. */
function isTall(range: i32): bool {
  return (range & 0xffff) - (range >> 16) > TILE;
}

/** From the first to the last changed tile of a column, in pixels: start << 16 | end. */
function changedRows(states: i32, columns: i32, rows: i32, c: i32, height: i32): i32 {
  let first: i32 = -1;
  let last: i32 = -1;
  for (let r: i32 = 0; r < rows; r++)
    if (load8(states + r * columns + c) === CHANGED) {
      if (first < 0) first = r;
      last = r;
    }
  if (first < 0) return 0;
  const y0 = first << 6;
  let y1 = (last + 1) << 6;
  if (y1 > height) y1 = height;
  if (y1 - y0 > MAX_ROWS) y1 = y0 + MAX_ROWS;
  return (y0 << 16) | y1;
}

function hashColumn(picture: i32, width: i32, c: i32, y0: i32, y1: i32, to: i32): void {
  const x = c << 6;
  const w = width - x < TILE ? width - x : TILE;
  for (let y = y0; y < y1; y++) store32(to + (y << 2), hashRun(picture + ((y * width + x) << 2), w));
}

/** Rows by their hash; a hash that occurs twice finds nothing. */
function fillTable(table: i32, hashes: i32, y0: i32, y1: i32): void {
  fillBytes(table, 0, TABLE_PLACES * 8);
  for (let y = y0; y < y1; y++) {
    const h = load32(hashes + (y << 2));
    let place = (mul32(h, 0x2c1b3c6d) >>> 16) & (TABLE_PLACES - 1);
    for (;;) {
      const at = table + (place << 3);
      const known = load32(at + 4);
      if (known === 0) {
        store32(at, h);
        store32(at + 4, y + 1);
        break;
      }
      if (load32(at) === h) {
        store32(at + 4, -1);
        break;
      }
      place = (place + 1) & (TABLE_PLACES - 1);
    }
  }
}

function lookUp(table: i32, h: i32): i32 {
  let place = (mul32(h, 0x2c1b3c6d) >>> 16) & (TABLE_PLACES - 1);
  let at = table + (place << 3);
  while (load32(at + 4) !== 0 && load32(at) !== h) {
    place = (place + 1) & (TABLE_PLACES - 1);
    at = table + (place << 3);
  }
  const known = load32(at + 4);
  return known < 1 ? -1 : known - 1;
}

/** Whether nine tenths of the rows of a strip hold what was `dy` above; one row in three is looked at. */
function stripMoved(now: i32, then: i32, width: i32, x: i32, w: i32, top: i32, bottom: i32, dy: i32): bool {
  let looked: i32 = 0;
  let same: i32 = 0;
  for (let y = top; y < bottom; y += 3) {
    const at = (y * width + x) << 2;
    if (sameRun(now + at, then + at - ((dy * width) << 2), w)) same++;
    looked++;
  }
  return same * 10 >= looked * 9;
}

/** A shift in any direction, as of a window that is dragged: striking pieces of the new picture are sought in the old. */
export function findDrag(now: i32, then: i32, width: i32, height: i32, states: i32, out: i32, scratch: i32): bool {
  const columns = (width + TILE - 1) >> 6;
  const rows = (height + TILE - 1) >> 6;
  const filter = scratch;
  const anchors = filter + FILTER_BYTES;
  const shifts = anchors + MAX_ANCHORS * 16;
  const cells = shifts + MAX_SHIFTS * 16;
  let x0: i32 = width;
  let y0: i32 = height;
  let x1: i32 = 0;
  let y1: i32 = 0;
  let changed: i32 = 0;
  for (let r: i32 = 0; r < rows; r++)
    for (let c: i32 = 0; c < columns; c++)
      if (load8(states + r * columns + c) === CHANGED) {
        changed++;
        if (c << 6 < x0) x0 = c << 6;
        if (r << 6 < y0) y0 = r << 6;
        if ((c + 1) << 6 > x1) x1 = (c + 1) << 6;
        if ((r + 1) << 6 > y1) y1 = (r + 1) << 6;
      }
  if (x1 > width) x1 = width;
  if (y1 > height) y1 = height;
  if (changed < 6 || x1 - x0 < 3 * ANCHOR) return false;
  const anchorCount = takeAnchors(now, then, width, height, states, changed, filter, anchors);
  if (anchorCount < 4) return false;
  const shift = bestShift(now, then, width, x0, y0, x1, y1, filter, anchors, anchorCount, shifts);
  if (shift < 0) return false;
  return growDrag(now, then, width, height, x0, y0, x1, y1, load32(shift), load32(shift + 4), cells, out);
}

/** The most striking run of each of some changed tiles: x, y, hash; and a filter of their hashes. */
function takeAnchors(
  now: i32,
  then: i32,
  width: i32,
  height: i32,
  states: i32,
  changed: i32,
  filter: i32,
  anchors: i32,
): i32 {
  const columns = (width + TILE - 1) >> 6;
  const rows = (height + TILE - 1) >> 6;
  fillBytes(filter, 0, FILTER_BYTES);
  const every = ((changed + MAX_ANCHORS - 1) / MAX_ANCHORS) | 0;
  let count: i32 = 0;
  let nth: i32 = 0;
  for (let r: i32 = 0; r < rows; r++)
    for (let c: i32 = 0; c < columns; c++) {
      if (load8(states + r * columns + c) !== CHANGED || nth++ % every !== 0 || count === MAX_ANCHORS) continue;
      let best: i32 = 5;
      let bestX: i32 = -1;
      let bestY: i32 = 0;
      for (let y = r << 6; y < (r + 1) << 6 && y < height; y += 6)
        for (let x = c << 6; x + ANCHOR <= (c + 1) << 6 && x + ANCHOR <= width; x += ANCHOR) {
          const at = now + ((y * width + x) << 2);
          let edges: i32 = 0;
          for (let i: i32 = 1; i < ANCHOR; i++) if (load32(at + (i << 2)) !== load32(at + (i << 2) - 4)) edges++;
          if (edges > best && !sameRun(at, then + ((y * width + x) << 2), ANCHOR)) {
            best = edges;
            bestX = x;
            bestY = y;
          }
        }
      if (bestX < 0) continue;
      const at = anchors + count * 16;
      let h: i32 = 0;
      for (let i: i32 = 0; i < ANCHOR; i++) h = (mul32(h, ROLL) + load32(now + ((bestY * width + bestX + i) << 2))) | 0;
      store32(at, bestX);
      store32(at + 4, bestY);
      store32(at + 8, h);
      const bit = filterBit(h);
      store8(filter + (bit >> 3), load8(filter + (bit >> 3)) | (1 << (bit & 7)));
      count++;
    }
  return count;
}

const ROLL: i32 = 0x01000193;
/** ROLL to the power of ANCHOR, modulo 2^32. */
const ROLL_OUT: i32 = 878412353;

function filterBit(h: i32): i32 {
  return mul32(h, 0x2c1b3c6d) >>> 16;
}

/** Where most anchors came from: the address of dx, dy and votes; -1 when they do not agree. */
function bestShift(
  now: i32,
  then: i32,
  width: i32,
  x0: i32,
  y0: i32,
  x1: i32,
  y1: i32,
  filter: i32,
  anchors: i32,
  anchorCount: i32,
  shifts: i32,
): i32 {
  let shiftCount: i32 = 0;
  for (let y = y0; y < y1; y++) {
    const row = then + ((y * width) << 2);
    let h: i32 = 0;
    for (let x = x0; x < x1; x++) {
      h = (mul32(h, ROLL) + load32(row + (x << 2))) | 0;
      if (x - x0 >= ANCHOR) h = (h - mul32(load32(row + ((x - ANCHOR) << 2)), ROLL_OUT)) | 0;
      const bit = filterBit(h);
      if ((load8(filter + (bit >> 3)) & (1 << (bit & 7))) === 0 || x - x0 < ANCHOR - 1) continue;
      const sx = x - ANCHOR + 1;
      for (let a: i32 = 0; a < anchorCount; a++) {
        const anchor = anchors + a * 16;
        if (load32(anchor + 8) !== h) continue;
        const ax = load32(anchor);
        const ay = load32(anchor + 4);
        if (!sameRun(now + ((ay * width + ax) << 2), row + (sx << 2), ANCHOR)) continue;
        let s: i32 = 0;
        while (s < shiftCount && (load32(shifts + s * 16) !== ax - sx || load32(shifts + s * 16 + 4) !== ay - y)) s++;
        if (s === shiftCount) {
          if (shiftCount === MAX_SHIFTS) continue;
          store32(shifts + s * 16, ax - sx);
          store32(shifts + s * 16 + 4, ay - y);
          store32(shifts + s * 16 + 8, 0);
          shiftCount++;
        }
        store32(shifts + s * 16 + 8, load32(shifts + s * 16 + 8) + 1);
      }
    }
  }
  let best: i32 = -1;
  let most: i32 = 2;
  for (let s: i32 = 0; s < shiftCount; s++) {
    const count = load32(shifts + s * 16 + 8);
    const isStill = load32(shifts + s * 16) === 0 && load32(shifts + s * 16 + 4) === 0;
    if (!isStill && count > most) {
      most = count;
      best = shifts + s * 16;
    }
  }
  return best;
}

/** The largest rectangle of cells for which the shift holds, trimmed from its bounds; then grown by single pixels. */
function growDrag(
  now: i32,
  then: i32,
  width: i32,
  height: i32,
  x0: i32,
  y0: i32,
  x1: i32,
  y1: i32,
  dx: i32,
  dy: i32,
  cells: i32,
  out: i32,
): bool {
  if (x0 < dx) x0 = dx;
  if (y0 < dy) y0 = dy;
  if (x1 > width + dx) x1 = width + dx;
  if (y1 > height + dy) y1 = height + dy;
  const w = (x1 - x0) >> 4;
  const h = (y1 - y0) >> 4;
  if (w < 2 || h < 2) return false;
  const shift = (dy * width + dx) << 2;
  for (let j: i32 = 0; j < h; j++)
    for (let i: i32 = 0; i < w; i++) {
      const at = ((y0 + j * CELL) * width + x0 + i * CELL) << 2;
      let isMoved = true;
      let isSame = true;
      for (let k: i32 = 0; k < CELL && isMoved; k++) {
        const row = at + ((k * width) << 2);
        isMoved = sameRun(now + row, then + row - shift, CELL);
        if (isSame) isSame = sameRun(now + row, then + row, CELL);
      }
      // 2: moved, and it shows; 1: moved or not, who knows; 0: not moved.
      store8(cells + j * w + i, isMoved ? (isSame ? 1 : 2) : 0);
    }
  let left: i32 = w;
  let top: i32 = h;
  let right: i32 = -1;
  let bottom: i32 = -1;
  for (let j: i32 = 0; j < h; j++)
    for (let i: i32 = 0; i < w; i++)
      if (load8(cells + j * w + i) === 2) {
        if (i < left) left = i;
        if (i > right) right = i;
        if (j < top) top = j;
        if (j > bottom) bottom = j;
      }
  let isTrimming = true;
  while (isTrimming && left < right && top < bottom) {
    isTrimming = true;
    if (columnShare(cells, w, left, top, bottom) < 60) left++;
    else if (columnShare(cells, w, right, top, bottom) < 60) right--;
    else if (rowShare(cells, w, top, left, right) < 60) top++;
    else if (rowShare(cells, w, bottom, left, right) < 60) bottom--;
    else isTrimming = false;
  }
  let moved: i32 = 0;
  let seen: i32 = 0;
  for (let j = top; j <= bottom; j++)
    for (let i = left; i <= right; i++) {
      const cell = load8(cells + j * w + i);
      if (cell === 2) seen++;
      if (cell > 0) moved++;
    }
  const area = (right - left + 1) * (bottom - top + 1);
  if (right - left < 1 || bottom - top < 1 || moved * 4 < area * 3 || seen < 40) return false;
  let px = x0 + left * CELL;
  let py = y0 + top * CELL;
  let qx = x0 + (right + 1) * CELL;
  let qy = y0 + (bottom + 1) * CELL;
  for (let n: i32 = 0; n < CELL; n++) {
    if (px > 0 && px - 1 - dx >= 0 && columnMoved(now, then, width, px - 1, py, qy, shift)) px--;
    if (qx < width && qx - dx < width && columnMoved(now, then, width, qx, py, qy, shift)) qx++;
    if (py > 0 && py - 1 - dy >= 0 && rowMoved(now, then, width, py - 1, px, qx, shift)) py--;
    if (qy < height && qy - dy < height && rowMoved(now, then, width, qy, px, qx, shift)) qy++;
  }
  store32(out, px);
  store32(out + 4, py);
  store32(out + 8, qx - px);
  store32(out + 12, qy - py);
  store32(out + 16, dx);
  store32(out + 20, dy);
  return true;
}

function columnShare(cells: i32, w: i32, i: i32, top: i32, bottom: i32): i32 {
  let moved: i32 = 0;
  for (let j = top; j <= bottom; j++) if (load8(cells + j * w + i) > 0) moved++;
  return ((moved * 100) / (bottom - top + 1)) | 0;
}

function rowShare(cells: i32, w: i32, j: i32, left: i32, right: i32): i32 {
  let moved: i32 = 0;
  for (let i = left; i <= right; i++) if (load8(cells + j * w + i) > 0) moved++;
  return ((moved * 100) / (right - left + 1)) | 0;
}

function columnMoved(now: i32, then: i32, width: i32, x: i32, top: i32, bottom: i32, shift: i32): bool {
  let same: i32 = 0;
  for (let y = top; y < bottom; y++) {
    const at = (y * width + x) << 2;
    if (load32(now + at) === load32(then + at - shift)) same++;
  }
  return same * 10 >= (bottom - top) * 9;
}

function rowMoved(now: i32, then: i32, width: i32, y: i32, left: i32, right: i32, shift: i32): bool {
  let same: i32 = 0;
  for (let x = left; x < right; x++) {
    const at = (y * width + x) << 2;
    if (load32(now + at) === load32(then + at - shift)) same++;
  }
  return same * 10 >= (right - left) * 9;
}

/** Whether a shift makes much more right than it makes wrong, judged by short runs in every ninth row. */
export function isMoveWorth(now: i32, then: i32, width: i32, found: i32): bool {
  const x = load32(found);
  const y = load32(found + 4);
  const w = load32(found + 8);
  const h = load32(found + 12);
  const shift = (load32(found + 20) * width + load32(found + 16)) << 2;
  let gained: i32 = 0;
  let spoiled: i32 = 0;
  for (let row: i32 = 0; row < h; row += 9)
    for (let i: i32 = 0; i < w; i += 32) {
      const run = w - i < 32 ? w - i : 32;
      const at = ((y + row) * width + x + i) << 2;
      const wasSame = sameRun(now + at, then + at, run);
      const isSame = sameRun(now + at, then + at - shift, run);
      if (isSame && !wasSame) gained++;
      if (wasSame && !isSame) spoiled++;
    }
  return gained > spoiled * 2 + 8;
}
