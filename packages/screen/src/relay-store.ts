import { gridFor } from './grid.ts';
import type { ClearPart } from './update-codec.ts';

/** One update as it arrived: passed on byte for byte, since only source and viewers can read it. */
interface Unit {
  readonly bytes: Uint8Array;
  readonly clear: ClearPart;
  /** How many of its tiles are still the newest of their place. */
  liveTiles: number;
}

/** What one viewer may have on the way before it has painted; beyond it the viewer only collects marks. */
export const VIEWER_WINDOW_BYTES = 512 * 1024;
/** Units of which less than half is still news may use this much before they are asked for anew. */
const SLACK_BYTES = 1024 * 1024;

export interface ViewerFeed {
  readonly news: Set<number>;
  inFlightBytes: number;
}

/**
 * The newest of each tile of one display, for any number of viewers. A viewer is a set of marks ("news for you") and a
 * window: whoever falls behind gets the newest later and slows nobody down.
 */
export class RelayStore {
  generation = -1;
  #width = 0;
  #height = 0;
  #unitOf: (Unit | undefined)[] = [];
  #versionOf = new Float64Array(0);
  readonly #units = new Set<Unit>();
  readonly #feeds = new Set<ViewerFeed>();
  #keptBytes = 0;

  get keptBytes(): number {
    return this.#keptBytes;
  }
  get missingTiles(): number[] {
    return [...this.#unitOf.keys()].filter((tile) => this.#unitOf[tile] === undefined);
  }

  addViewer(): ViewerFeed {
    const feed: ViewerFeed = { news: new Set(this.#unitOf.keys()), inFlightBytes: 0 };
    this.#feeds.add(feed);
    return feed;
  }

  removeViewer(feed: ViewerFeed): void {
    this.#feeds.delete(feed);
  }

  /** Forgets every pixel: nobody may look, or the source is gone. */
  clear(): void {
    this.#unitOf = [];
    this.#versionOf = new Float64Array(0);
    this.#units.clear();
    this.#keptBytes = 0;
    this.generation = -1;
    for (const feed of this.#feeds) feed.news.clear();
  }

  /** Keeps an update. Answers which tiles the source should send again, because their unit was dropped for room. */
  put(bytes: Uint8Array, clear: ClearPart, generation: number): number[] {
    if (generation < this.generation) return [];
    if (generation > this.generation || clear.width !== this.#width || clear.height !== this.#height) {
      this.clear();
      this.generation = generation;
      this.#width = clear.width;
      this.#height = clear.height;
      const { tileCount } = gridFor(clear.width, clear.height);
      this.#unitOf = new Array<Unit | undefined>(tileCount).fill(undefined);
      this.#versionOf = new Float64Array(tileCount);
    }
    const unit: Unit = { bytes, clear, liveTiles: 0 };
    for (const { tile, version } of clear.tiles) {
      if (version <= (this.#versionOf[tile] ?? 0)) continue;
      this.#release(this.#unitOf[tile]);
      this.#unitOf[tile] = unit;
      this.#versionOf[tile] = version;
      unit.liveTiles++;
      for (const feed of this.#feeds) feed.news.add(tile);
    }
    if (unit.liveTiles > 0) {
      this.#units.add(unit);
      this.#keptBytes += bytes.byteLength;
    }
    return this.#dropStale();
  }

  /** What this viewer should get now; undefined when nothing is news or its window is full. */
  next(feed: ViewerFeed): Uint8Array | undefined {
    if (feed.inFlightBytes >= VIEWER_WINDOW_BYTES) return undefined;
    for (const tile of feed.news) {
      const unit = this.#unitOf[tile];
      feed.news.delete(tile);
      if (!unit) continue;
      for (const { tile: other } of unit.clear.tiles) if (this.#unitOf[other] === unit) feed.news.delete(other);
      feed.inFlightBytes += unit.bytes.byteLength;
      return unit.bytes;
    }
    return undefined;
  }

  #release(unit: Unit | undefined): void {
    if (!unit || --unit.liveTiles > 0) return;
    this.#units.delete(unit);
    this.#keptBytes -= unit.bytes.byteLength;
  }

  /** Memory stays under twice the live bytes and a slack: the least useful units go, their tiles are asked for anew. */
  #dropStale(): number[] {
    if (this.#keptBytes < SLACK_BYTES) return [];
    const liveShare = (u: Unit) => u.liveTiles / u.clear.tiles.length;
    let liveBytes = 0;
    for (const unit of this.#units) liveBytes += unit.bytes.byteLength * liveShare(unit);
    if (this.#keptBytes <= 2 * liveBytes + SLACK_BYTES) return [];
    const wanted: number[] = [];
    for (const unit of [...this.#units].sort((a, b) => liveShare(a) - liveShare(b))) {
      if (this.#keptBytes <= liveBytes + SLACK_BYTES) break;
      for (const { tile } of unit.clear.tiles) {
        if (this.#unitOf[tile] !== unit) continue;
        this.#unitOf[tile] = undefined;
        wanted.push(tile);
      }
      this.#units.delete(unit);
      this.#keptBytes -= unit.bytes.byteLength;
    }
    return wanted;
  }
}
