/* Strokes as the X server's shapes want them: rows of pixels, each a rectangle of its own. */

interface Place {
  readonly x: number;
  readonly y: number;
}
/** x, y, width, height. */
export type Row = [number, number, number, number];

/** A round brush drawn along a line, row by row: from left to right edge where it touched that row at all. */
function segmentRows(from: Place, to: Place, radius: number): Map<number, [number, number]> {
  const rows = new Map<number, [number, number]>();
  const steps = Math.max(1, Math.ceil(Math.hypot(to.x - from.x, to.y - from.y)));
  for (let i = 0; i <= steps; i++) {
    const cx = from.x + ((to.x - from.x) * i) / steps;
    const cy = from.y + ((to.y - from.y) * i) / steps;
    for (let y = Math.ceil(cy - radius); y <= cy + radius; y++) {
      const half = Math.sqrt(Math.max(0, radius * radius - (y - cy) ** 2));
      const [left, right] = [Math.round(cx - half), Math.round(cx + half)];
      const row = rows.get(y);
      rows.set(y, row ? [Math.min(row[0], left), Math.max(row[1], right)] : [left, right]);
    }
  }
  return rows;
}

/**
 * The rows of a stroke through these places, in whole pixels of the display, one after the other: a hostile hand draws
 * more of them than can be drawn at once. `everyRow` leaves out all others: a stroke of every third row lets what is
 * beneath be read without anything that could mix colours.
 */
export function* strokeRows(line: readonly Place[], radius: number, everyRow = 1): Generator<Row> {
  for (let i = 0; i < line.length; i++) {
    const to = line[i + 1] ?? (line.length === 1 ? line[0] : undefined);
    const from = line[i];
    if (!from || !to) continue;
    for (const [y, [left, right]] of segmentRows(from, to, radius))
      if (y % everyRow === 0) yield [left, y, Math.max(1, right - left), 1];
  }
}
