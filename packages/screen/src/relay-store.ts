import { gridFor, type Grid } from './grid.ts';
import { resolveUnit, type UnitClear } from './unit-clear.ts';
import type { VersionTable } from './version-table.ts';

/** A message of whole tiles as it arrived: passed on byte for byte, since only source and viewers can read it. */
interface KeptUnit {
  readonly bytes: Uint8Array;
  readonly tiles: readonly { readonly tile: number; readonly version: number }[];
  /** How many of its tiles are still the newest of their place. */
  live: number;
}

/** Units of which less than half is still newest may use this much beyond. */
const SLACK_BYTES = 256 * 1024;
/** A tile that was asked for and did not come is asked for again. */
const ASK_AGAIN_MS = 1_500;
/** Tiles asked for at once: what comes first should not be old when the last arrives. */
const MAX_ASKED = 128;

/** What the relay knows of one viewer: the tiles of which it does not hold the newest. */
export interface ViewerFeed {
  readonly missing: Set<number>;
}

/**
 * What of one display the relay knows, for any number of viewers: of each tile the newest version, and the whole tiles
 * that it happens to have. Changes are passed on and not kept. Whoever cannot take one only misses some tiles, which
 * come whole when there is room: nobody is slowed by anybody.
 */
export class RelayStore {
  generation = -1;
  #epoch = 0;
  #grid: Grid | undefined;
  #newest = new Float64Array(0);
  #kept: (KeptUnit | undefined)[] = [];
  #askedAtMs = new Float64Array(0);
  readonly #units = new Set<KeptUnit>();
  readonly #feeds = new Set<ViewerFeed>();
  #keptBytes = 0;

  get keptBytes(): number {
    return this.#keptBytes;
  }
  /** What the relay has seen, for a source that comes back. Undefined while it has seen nothing. */
  get table(): VersionTable | undefined {
    if (!this.#grid) return undefined;
    return { width: this.#grid.width, height: this.#grid.height, generation: this.generation, versions: this.#newest };
  }

  addViewer(): ViewerFeed {
    const feed: ViewerFeed = { missing: new Set(this.#newest.keys()) };
    this.#feeds.add(feed);
    return feed;
  }

  removeViewer(feed: ViewerFeed): void {
    this.#feeds.delete(feed);
  }

  /** A viewer that comes back says what it holds: only the rest is news. */
  holds(feed: ViewerFeed, table: VersionTable): void {
    const isSame =
      table.generation === this.generation && table.width === this.#grid?.width && table.height === this.#grid.height;
    feed.missing.clear();
    this.#newest.forEach((version, tile) => {
      if (!isSame || !version || table.versions[tile] !== version) feed.missing.add(tile);
    });
  }

  /** Forgets all: nobody may look, or the source is gone. */
  clear(): void {
    this.#dropKept();
    this.#grid = undefined;
    this.#newest = new Float64Array(0);
    this.generation = -1;
    this.#epoch = 0;
    for (const feed of this.#feeds) feed.missing.clear();
  }

  /** A new key is in use: what was sealed with an older one is nothing to newcomers, and is dropped. */
  noteEpoch(epoch: number): void {
    if (epoch <= this.#epoch) return;
    this.#dropKept();
    this.#epoch = epoch;
  }

  /**
   * Takes a message: `pass` is asked once for each viewer whether it can take it now. False when the message belongs to
   * what is over: an older size, or a key that is not used any longer.
   */
  put(
    unit: { clear: UnitClear; number: number; generation: number; epoch: number; bytes: () => Uint8Array },
    pass: (feed: ViewerFeed) => boolean,
  ): boolean {
    const { clear, number } = unit;
    if (unit.generation < this.generation || unit.epoch < this.#epoch) return false;
    this.noteEpoch(unit.epoch);
    const grid = this.#fit(clear, unit.generation);
    const isExpected = this.#isExpected(clear, number);
    for (const feed of this.#feeds) {
      const isPassed = pass(feed);
      if (isPassed && isExpected && !feed.missing.size) continue;
      this.#follow(feed, clear, number, grid, isPassed);
    }
    this.#note(clear, number, grid);
    if (clear.kind === 'whole') this.#keep(unit.bytes(), clear.tiles);
    return true;
  }

  /** A kept message that brings this viewer something; undefined when there is none. */
  next(feed: ViewerFeed): Uint8Array | undefined {
    for (const tile of feed.missing) {
      const unit = this.#kept[tile];
      if (!unit) continue;
      for (const { tile: other } of unit.tiles) if (this.#kept[other] === unit) feed.missing.delete(other);
      return unit.bytes;
    }
    return undefined;
  }

  /** Tiles that this viewer misses and only the source has. They count as asked for from now on. */
  ask(feed: ViewerFeed, nowMs: number): number[] {
    const tiles: number[] = [];
    for (const tile of feed.missing) {
      if (tiles.length === MAX_ASKED) break;
      if (this.#kept[tile] || nowMs - (this.#askedAtMs[tile] ?? 0) < ASK_AGAIN_MS) continue;
      this.#askedAtMs[tile] = nowMs;
      tiles.push(tile);
    }
    return tiles;
  }

  #fit(clear: UnitClear, generation: number): Grid {
    const isSame =
      generation === this.generation && clear.width === this.#grid?.width && clear.height === this.#grid.height;
    if (isSame && this.#grid) return this.#grid;
    this.#dropKept();
    this.generation = generation;
    this.#grid = gridFor(clear.width, clear.height);
    this.#newest = new Float64Array(this.#grid.tileCount);
    this.#askedAtMs = new Float64Array(this.#grid.tileCount);
    this.#kept = new Array<KeptUnit | undefined>(this.#grid.tileCount).fill(undefined);
    for (const feed of this.#feeds) for (let tile = 0; tile < this.#grid.tileCount; tile++) feed.missing.add(tile);
    return this.#grid;
  }

  /** Whether the message builds on just what the relay has seen, so that whoever misses nothing still does not. */
  #isExpected(clear: UnitClear, number: number): boolean {
    if (clear.kind === 'whole') return clear.tiles.every(({ tile, version }) => version >= (this.#newest[tile] ?? 0));
    const { reads, versions } = clear.move ?? {};
    if (reads) for (let i = 0; i < reads.length; i++) if (this.#newest[reads[i] ?? 0] !== versions?.[i]) return false;
    return clear.boxes.every(({ tile, base }) => base === undefined || base === number || this.#newest[tile] === base);
  }

  #follow(feed: ViewerFeed, clear: UnitClear, number: number, grid: Grid, isPassed: boolean): void {
    if (clear.kind === 'whole') {
      for (const { tile, version } of clear.tiles)
        if (version >= (this.#newest[tile] ?? 0)) {
          if (isPassed) feed.missing.delete(tile);
          else if (version > (this.#newest[tile] ?? 0)) feed.missing.add(tile);
        }
      return;
    }
    const held = (tile: number) => (feed.missing.has(tile) ? -1 : (this.#newest[tile] ?? -1));
    const { moved, boxed, lost } = resolveUnit(clear, number, grid, isPassed ? held : () => -2);
    for (const tile of lost) feed.missing.add(tile);
    for (const tile of moved) feed.missing.delete(tile);
    for (const i of boxed) {
      const tile = clear.boxes[i]?.tile ?? 0;
      if (isPassed) feed.missing.delete(tile);
      else feed.missing.add(tile);
    }
  }

  #note(clear: UnitClear, number: number, grid: Grid): void {
    const write = (tile: number, version: number) => {
      if (version <= (this.#newest[tile] ?? 0)) return;
      this.#newest[tile] = version;
      this.#release(tile);
    };
    if (clear.kind === 'whole') for (const { tile, version } of clear.tiles) write(tile, version);
    else {
      const target = clear.move?.tiles.target;
      if (target)
        for (let r = target.row; r < target.row + target.rows; r++)
          for (let c = target.column; c < target.column + target.columns; c++) write(r * grid.columns + c, number);
      for (const { tile } of clear.boxes) write(tile, number);
    }
  }

  #keep(bytes: Uint8Array, tiles: KeptUnit['tiles']): void {
    const unit: KeptUnit = { bytes, tiles, live: 0 };
    for (const { tile, version } of tiles) {
      this.#askedAtMs[tile] = 0;
      if (version !== this.#newest[tile]) continue;
      this.#release(tile);
      this.#kept[tile] = unit;
      unit.live++;
    }
    if (!unit.live) return;
    this.#units.add(unit);
    this.#keptBytes += bytes.byteLength;
    this.#dropStale();
  }

  #release(tile: number): void {
    const unit = this.#kept[tile];
    if (!unit) return;
    this.#kept[tile] = undefined;
    if (--unit.live > 0) return;
    this.#units.delete(unit);
    this.#keptBytes -= unit.bytes.byteLength;
  }

  #dropKept(): void {
    this.#kept.fill(undefined);
    this.#units.clear();
    this.#keptBytes = 0;
  }

  /** Memory stays under twice the live bytes and a slack: the least useful go; whoever misses them, asks. */
  #dropStale(): void {
    if (this.#keptBytes < SLACK_BYTES) return;
    const liveShare = (u: KeptUnit) => u.live / u.tiles.length;
    let liveBytes = 0;
    for (const unit of this.#units) liveBytes += unit.bytes.byteLength * liveShare(unit);
    if (this.#keptBytes <= 2 * liveBytes + SLACK_BYTES) return;
    for (const unit of [...this.#units].sort((a, b) => liveShare(a) - liveShare(b))) {
      if (this.#keptBytes <= liveBytes + SLACK_BYTES) break;
      for (const { tile } of unit.tiles) if (this.#kept[tile] === unit) this.#kept[tile] = undefined;
      this.#units.delete(unit);
      this.#keptBytes -= unit.bytes.byteLength;
    }
  }
}
