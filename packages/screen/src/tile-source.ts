import { clip, gridFor, tileRect, TILE_PX, type Grid, type Rect } from './grid.ts';
import { CHANGED, CLEAN, Kernel, moveScratchBytes, PALETTE_BYTES, SUSPECT, type KernelKind } from './kernel/kernel.ts';
import { ByteWriter } from './byte-io.ts';
import { PhotoWatch, type PhotoJob } from './photo-watch.ts';
import { MAX_BODY_BYTES, packBody, type Deflate } from './unit-body.ts';
import { encodeClear, moveTilesFor, readTiles, type BoxClear, type MoveClear, type UnitClear } from './unit-clear.ts';

/** One numbered message of a display's picture, before it is sealed. */
export interface SourceUnit {
  readonly number: number;
  readonly kind: 'change' | 'whole' | 'photo';
  readonly clear: Uint8Array;
  readonly body: Uint8Array;
}

/** Tiles in one message: headers, sealing and decoding cost per message, waiting costs per byte. */
const MAX_TILES = 32;
const LEAST_RAW_BYTES = 2048;
/** What changed in nine tenths of a tile is sent as the whole tile: the relay can keep that for others. */
const WHOLE_SHARE = 0.9;
/** Fewer changed tiles than this are cheaper to send than to search. */
const LEAST_MOVED_TILES = 6;
/** While none is found, shifts in two directions are sought in one capture of two: they cost more. */
const MAX_BACKOFF = 2;
/** What was sent as a photo is sent again without loss once it has stood still for this long. */
export const REFINE_MS = 300;
/** State of a tile whose photo is being encoded: nothing else of it is sent before. */
const HELD = 3;
/** Repairs may use a quarter of what changes use, and so a fifth of all, while there are changes. */
const REPAIR_SHARE = 0.25;
const MAX_REPAIR_CREDIT_BYTES = 64 * 1024;

export interface TileSourceOptions {
  readonly deflate: Deflate;
  readonly kernel?: KernelKind;
  /** Goes on from the last generation's, so that numbers only grow. */
  readonly firstNumber?: number;
  readonly now?: () => number;
}

/**
 * The picture at its source. What changes only marks tiles; a tile is encoded when there is credit to send it, as it
 * looks then. So a slow line costs freshness and never a queue. `then` is what everybody who has every message holds.
 */
export class TileSource {
  readonly grid: Grid;
  readonly #kernel: Kernel;
  readonly #deflate: Deflate;
  readonly #nowMs: () => number;
  readonly #now: number;
  readonly #then: number;
  readonly #boxes: number;
  readonly #palette: number;
  readonly #found: number;
  readonly #scratch: number;
  readonly #out: number;
  readonly #states: Uint8Array;
  readonly #statesAt: number;
  readonly #versions: Float64Array;
  readonly #wanted = new Set<number>();
  readonly #photos: PhotoWatch;
  #number: number;
  #changed = 0;
  #isFresh = false;
  #isSuspect = false;
  #move: { rect: Rect; clear: MoveClear; dx: number; dy: number } | undefined;
  #dragMisses = 0;
  #captures = 0;
  #repairCredit = 0;
  /** How much smaller deflate makes things here, so that messages can be sized beforehand. */
  #packing = 0.3;

  constructor(width: number, height: number, options: TileSourceOptions) {
    this.grid = gridFor(width, height);
    const pictureBytes = width * height * 4;
    const { tileCount } = this.grid;
    const scratchBytes = moveScratchBytes(width, height);
    const size = pictureBytes * 2 + tileCount * 5 + PALETTE_BYTES + scratchBytes + MAX_BODY_BYTES * 2 + 4096;
    this.#kernel = new Kernel(size, options.kernel ?? 'wasm');
    this.#deflate = options.deflate;
    this.#nowMs = options.now ?? (() => performance.now());
    this.#now = this.#kernel.take(pictureBytes);
    this.#then = this.#kernel.take(pictureBytes);
    this.#statesAt = this.#kernel.take(tileCount);
    this.#boxes = this.#kernel.take(tileCount * 4);
    this.#palette = this.#kernel.take(PALETTE_BYTES);
    this.#found = this.#kernel.take(24);
    this.#scratch = this.#kernel.take(scratchBytes);
    this.#out = this.#kernel.take(MAX_BODY_BYTES * 2);
    this.#states = this.#kernel.bytes.subarray(this.#statesAt, this.#statesAt + tileCount);
    this.#versions = new Float64Array(tileCount);
    this.#photos = new PhotoWatch(this.grid);
    this.#number = (options.firstNumber ?? 1) - 1;
    // No pixel looks like this, so a black screen differs, too.
    this.#kernel.words.fill(0xffffffff, this.#then >> 2, (this.#then + pictureBytes) >> 2);
    this.#states.fill(SUSPECT);
    this.#isSuspect = true;
  }

  /** The number of the last message. */
  get number(): number {
    return this.#number;
  }
  /** The next number, for a message that is no picture but is counted with them. */
  takeNumber(): number {
    return ++this.#number;
  }
  /** Of each tile the number of the message that last changed it; 0 before the first. */
  get versions(): Float64Array {
    return this.#versions;
  }
  /** The picture as it was taken last: words 0x00RRGGBB. */
  get pixels(): Uint32Array {
    return this.#kernel.words.subarray(this.#now >> 2, (this.#now >> 2) + this.grid.width * this.grid.height);
  }
  get isLossy(): boolean {
    return this.#photos.lossy.size > 0;
  }
  /** Whether what moves may be sent with loss meanwhile. */
  set mayLose(may: boolean) {
    this.#photos.isAllowed = may;
  }

  /** Takes fresh pixels of one rectangle, `rect.width` words a row. */
  put(rect: Rect, fresh: Uint32Array): void {
    const on = clip(rect, this.grid);
    if (!on) return;
    const { words, call } = this.#kernel;
    const { width } = this.grid;
    for (let y = on.y; y < on.y + on.height; y++) {
      const from = (y - rect.y) * rect.width + on.x - rect.x;
      const to = (this.#now >> 2) + y * width + on.x;
      words.set(fresh.subarray(from, from + on.width), to);
    }
    // X servers leave the fourth byte undefined.
    const at = this.#now + (on.y * width + on.x) * 4;
    call.putRect(this.#now, width, at, width, on.x, on.y, on.width, on.height);
    this.#suspect(on);
  }

  /** Covers a rectangle with one colour, before anything is compared: what it hides is not there. */
  cover(rect: Rect, colour: number): void {
    const on = clip(rect, this.grid);
    if (!on) return;
    this.#kernel.call.fillRect(this.#now, this.grid.width, on.x, on.y, on.width, on.height, colour);
    this.#suspect(on);
  }

  /** Takes the colours away. */
  grey(rect: Rect): void {
    const on = clip(rect, this.grid);
    if (on) this.#kernel.call.greyRect(this.#now, this.grid.width, on.x, on.y, on.width, on.height);
  }

  /** Somebody has lost these, or never had them. */
  want(tiles: Iterable<number>): void {
    for (const tile of tiles) if (tile < this.grid.tileCount) this.#wanted.add(tile);
  }

  wantAll(): void {
    for (let tile = 0; tile < this.grid.tileCount; tile++) this.#wanted.add(tile);
  }

  /** Whether there is anything to send, now or after standing still. */
  get hasNews(): boolean {
    return this.#isSuspect || this.#changed > 0 || this.#wanted.size > 0 || this.isLossy || this.#move !== undefined;
  }

  /**
   * The next message of about `maxBytes`, nearest to `focus` first; undefined when nothing is to be sent just now.
   */
  next(maxBytes: number, focus?: { x: number; y: number }): SourceUnit | undefined {
    this.#look();
    const ready = this.#photos.takeReady();
    if (ready) return this.#photoUnit(ready);
    const rawLimit = Math.min(MAX_BODY_BYTES, Math.max(LEAST_RAW_BYTES, maxBytes / this.#packing));
    const isChanging = this.#changed > 0 || this.#move !== undefined;
    // A shift is in `then` already, but not in the versions: it goes before any repair.
    const isRepairDue = this.#wanted.size > 0 && this.#repairCredit > 0 && !this.#move;
    if (isChanging && !isRepairDue) {
      const unit = this.#nextChange(rawLimit, focus);
      if (unit) {
        const credit = (unit.clear.length + unit.body.length) * REPAIR_SHARE;
        this.#repairCredit = Math.min(MAX_REPAIR_CREDIT_BYTES, this.#repairCredit + credit);
        return unit;
      }
    }
    if (this.#wanted.size) {
      const tiles = this.#byColumns([...this.#wanted], focus).slice(0, MAX_TILES);
      const unit = this.#wholeUnit(tiles, rawLimit, this.#then, false);
      if (unit) {
        if (isChanging) this.#repairCredit -= unit.clear.length + unit.body.length;
        return unit;
      }
      // None of it could be repaired, since nobody was ever sent it: it comes with what changed, and that does not wait.
      if (isRepairDue && isChanging) return this.#nextChange(rawLimit, focus) ?? this.#refine(rawLimit, focus);
    }
    return this.#refine(rawLimit, focus);
  }

  /** A rectangle that keeps moving like a photo: encode it with loss, then `finishPhoto`. Undefined when there is none. */
  takePhotoJob(): PhotoJob | undefined {
    this.#look();
    const job = this.#photos.findJob(this.#states, (tile) => this.#boxOf(tile), this.#nowMs());
    if (!job) return undefined;
    const { x, y, width, height } = job.rect;
    const rgb = new Uint8Array(width * height * 3);
    let to = 0;
    for (let row = y; row < y + height; row++)
      for (let i = (this.#now >> 2) + row * this.grid.width + x, end = i + width; i < end; i++) {
        const p = this.#kernel.words[i] ?? 0;
        rgb[to++] = p >> 16;
        rgb[to++] = p >> 8;
        rgb[to++] = p;
      }
    for (const tile of job.tiles) {
      const within = clip(this.#tileWithin(tile, job.rect), this.grid);
      if (within)
        this.#kernel.call.copyRect(
          this.#then,
          this.#now,
          this.grid.width,
          within.x,
          within.y,
          within.width,
          within.height,
        );
      if (this.#states[tile] === CHANGED) this.#changed--;
      this.#states[tile] = HELD;
    }
    this.#photos.begin();
    return { ...job, rgb };
  }

  finishPhoto(job: PhotoJob, jpeg: Uint8Array): void {
    this.#photos.finish(job, jpeg);
  }

  /** Compares what is suspect, and looks for a shift once for each capture. */
  #look(): void {
    if (!this.#isSuspect) return;
    this.#isSuspect = false;
    const { call } = this.#kernel;
    const { width, height } = this.grid;
    const diff = () =>
      (this.#changed = call.diffTiles(this.#now, this.#then, width, height, this.#statesAt, this.#boxes));
    diff();
    if (this.#isFresh && this.#changed >= LEAST_MOVED_TILES && !this.#move && this.#number > 0 && this.#findMove())
      diff();
    this.#isFresh = false;
  }

  #findMove(): boolean {
    const { call, words } = this.#kernel;
    const { width, height } = this.grid;
    this.#captures++;
    const args = [this.#now, this.#then, width, height, this.#statesAt, this.#found, this.#scratch] as const;
    const isWorth = () => call.isMoveWorth(this.#now, this.#then, width, this.#found);
    let isFound = call.findScroll(...args) && isWorth();
    if (!isFound && this.#captures % Math.min(MAX_BACKOFF, 1 << Math.max(0, this.#dragMisses - 2)) === 0) {
      isFound = call.findDrag(...args) && isWorth();
      this.#dragMisses = isFound ? 0 : this.#dragMisses + 1;
    }
    if (!isFound) return false;
    const at = this.#found >> 2;
    const [x, y, w, h, dx, dy] = [...words.subarray(at, at + 6)].map((n) => n | 0) as [
      number,
      number,
      number,
      number,
      number,
      number,
    ];
    const rect = { x, y, width: w, height: h };
    const tiles = moveTilesFor(this.grid, rect, dx, dy);
    const reads = readTiles(tiles, this.grid);
    // Everybody must hold what is read: tiles that were never sent, or are on their way as a photo, are held by nobody.
    if (reads.some((tile) => !this.#versions[tile] || this.#states[tile] === HELD)) return false;
    const { target } = tiles;
    for (let r = target.row; r < target.row + target.rows; r++)
      for (let c = target.column; c < target.column + target.columns; c++)
        if (this.#states[r * this.grid.columns + c] === HELD) return false;
    const versions = Float64Array.from(reads, (tile) => this.#versions[tile] ?? 0);
    this.#move = { rect, dx, dy, clear: { tiles, reads, versions } };
    call.moveRect(this.#then, width, x, y, w, h, dx, dy);
    const wasLossy = reads.some((tile) => this.#photos.lossy.has(tile));
    for (let r = target.row; r < target.row + target.rows; r++)
      for (let c = target.column; c < target.column + target.columns; c++) {
        const tile = r * this.grid.columns + c;
        this.#states[tile] = SUSPECT;
        if (wasLossy) this.#photos.lossy.set(tile, this.#nowMs());
      }
    return true;
  }

  #nextChange(rawLimit: number, focus: { x: number; y: number } | undefined): SourceUnit | undefined {
    const partial: number[] = [];
    const whole: number[] = [];
    if (this.#changed)
      for (let tile = 0; tile < this.#states.length; tile++)
        if (this.#states[tile] === CHANGED) (this.#isWholeDue(tile) ? whole : partial).push(tile);
    const move = this.#move;
    if (move || (partial.length && !this.#isNearer(whole, partial, focus)))
      return this.#changeUnit(this.#nearest(partial, focus), rawLimit);
    return whole.length ? this.#wholeUnit(this.#nearest(whole, focus), rawLimit, this.#now, true) : undefined;
  }

  #isWholeDue(tile: number): boolean {
    if (!this.#versions[tile]) return true;
    const { width, height } = tileRect(this.grid, tile);
    const box = this.#boxOf(tile);
    return box.width * box.height >= WHOLE_SHARE * width * height;
  }

  #changeUnit(candidates: readonly number[], rawLimit: number): SourceUnit {
    const { call, bytes } = this.#kernel;
    const number = ++this.#number;
    const move = this.#move;
    this.#move = undefined;
    const head = new ByteWriter();
    if (move) {
      const { rect, dx, dy } = move;
      for (const value of [rect.x, rect.y, rect.width, rect.height]) head.u16(value);
      head.u16(dx + 32_768);
      head.u16(dy + 32_768);
      const { target } = move.clear.tiles;
      for (let r = target.row; r < target.row + target.rows; r++)
        for (let c = target.column; c < target.column + target.columns; c++)
          this.#versions[r * this.grid.columns + c] = number;
    }
    bytes.set(head.bytes, this.#out);
    let at = this.#out + head.length;
    call.clearPalette(this.#palette);
    const boxes: BoxClear[] = [];
    const chosen = this.#choose(candidates, rawLimit, (tile) => {
      const box = this.#boxOf(tile);
      return box.width * box.height;
    });
    for (const tile of chosen) {
      const { x, y } = tileRect(this.grid, tile);
      const box = this.#boxOf(tile);
      bytes.set([box.x - x, box.y - y, box.width - 1, box.height - 1], at);
      at = this.#encode(tile, box, this.#now, at + 4);
      call.copyRect(this.#then, this.#now, this.grid.width, box.x, box.y, box.width, box.height);
      boxes.push({ tile, base: this.#versions[tile] ?? 0 });
      this.#settle(tile, number);
    }
    const clear: UnitClear = { ...this.#size, kind: 'change', move: move?.clear, boxes };
    return this.#unit(number, 'change', clear, at);
  }

  #wholeUnit(candidates: readonly number[], rawLimit: number, from: number, isChange: boolean): SourceUnit | undefined {
    const { call } = this.#kernel;
    // What nobody was ever sent comes as a change; what is on its way as a photo needs no repair.
    const able = isChange
      ? candidates
      : candidates.filter((tile) => {
          const isAble = Boolean(this.#versions[tile]) && this.#states[tile] !== HELD;
          if (!isAble) this.#wanted.delete(tile);
          return isAble;
        });
    if (!able.length) return undefined;
    const number = ++this.#number;
    const chosen = this.#choose(able, rawLimit, (tile) => {
      const { width, height } = tileRect(this.grid, tile);
      return width * height;
    });
    call.clearPalette(this.#palette);
    let at = this.#out;
    const tiles: { tile: number; version: number }[] = [];
    for (const tile of chosen) {
      const rect = tileRect(this.grid, tile);
      at = this.#encode(tile, rect, from, at);
      if (isChange) {
        call.copyRect(this.#then, this.#now, this.grid.width, rect.x, rect.y, rect.width, rect.height);
        this.#settle(tile, number);
        this.#photos.lossy.delete(tile);
      }
      this.#wanted.delete(tile);
      tiles.push({ tile, version: this.#versions[tile] ?? 0 });
    }
    return this.#unit(number, 'whole', { ...this.#size, kind: 'whole', tiles }, at);
  }

  /** What was sent as a photo and stands still now is sent as it really is. */
  #refine(rawLimit: number, focus: { x: number; y: number } | undefined): SourceUnit | undefined {
    const due = this.#photos.stillSince(this.#nowMs() - REFINE_MS);
    return due.length ? this.#wholeUnit(this.#nearest(due, focus), rawLimit, this.#now, true) : undefined;
  }

  #photoUnit({ job, jpeg }: { job: PhotoJob; jpeg: Uint8Array }): SourceUnit {
    const number = ++this.#number;
    const nowMs = this.#nowMs();
    const boxes = job.tiles.map((tile): BoxClear => {
      const { width, height } = tileRect(this.grid, tile);
      const within = this.#tileWithin(tile, job.rect);
      const isWhole = within.width === width && within.height === height;
      const base = isWhole ? undefined : (this.#versions[tile] ?? 0);
      this.#versions[tile] = number;
      this.#photos.lossy.set(tile, nowMs);
      this.#states[tile] = SUSPECT;
      return { tile, base };
    });
    this.#isSuspect = true;
    this.#photos.noteSent(job.tiles, nowMs);
    const clear = encodeClear({ ...this.#size, kind: 'change', move: undefined, boxes }, number);
    const out = new ByteWriter();
    for (const value of [job.rect.x, job.rect.y, job.rect.width, job.rect.height]) out.u16(value);
    out.put(jpeg);
    return { number, kind: 'photo', clear, body: out.bytes };
  }

  get #size() {
    return { width: this.grid.width, height: this.grid.height };
  }

  #suspect(rect: Rect): void {
    const { columns } = this.grid;
    for (let r = Math.floor(rect.y / TILE_PX); r * TILE_PX < rect.y + rect.height; r++)
      for (let c = Math.floor(rect.x / TILE_PX); c * TILE_PX < rect.x + rect.width; c++)
        if (this.#states[r * columns + c] !== HELD) this.#states[r * columns + c] = SUSPECT;
    this.#isSuspect = true;
    this.#isFresh = true;
  }

  #boxOf(tile: number): Rect {
    const packed = this.#kernel.words[(this.#boxes >> 2) + tile] ?? 0;
    const { x, y } = tileRect(this.grid, tile);
    return {
      x: x + (packed & 63),
      y: y + ((packed >> 6) & 63),
      width: ((packed >> 12) & 63) + 1,
      height: ((packed >> 18) & 63) + 1,
    };
  }

  #tileWithin(tile: number, rect: Rect): Rect {
    const t = tileRect(this.grid, tile);
    const x = Math.max(t.x, rect.x);
    const y = Math.max(t.y, rect.y);
    return {
      x,
      y,
      width: Math.min(t.x + t.width, rect.x + rect.width) - x,
      height: Math.min(t.y + t.height, rect.y + rect.height) - y,
    };
  }

  #encode(tile: number, rect: Rect, picture: number, at: number): number {
    const { width } = this.grid;
    const pixels = picture + (rect.y * width + rect.x) * 4;
    const end = this.#kernel.call.encodeBox(pixels, width, rect.width, rect.height, at, this.#palette);
    if (picture === this.#now) this.#photos.note(tile, this.#kernel.bytes[at] ?? 0, this.#nowMs());
    return end;
  }

  #settle(tile: number, number: number): void {
    this.#versions[tile] = number;
    if (this.#states[tile] === CHANGED) this.#changed--;
    this.#states[tile] = CLEAN;
  }

  /** As many of the candidates as surely fit into a message, in ascending order; at least one. */
  #choose(candidates: readonly number[], rawLimit: number, areaOf: (tile: number) => number): number[] {
    let raw = 0;
    let count = 0;
    while (count < candidates.length) {
      // Text needs about a byte for three pixels before it is packed; a photo three bytes for one.
      const area = areaOf(candidates[count] ?? 0);
      const isPhoto = this.#photos.isTrueColour(candidates[count] ?? 0);
      raw += isPhoto ? area * 3 : area / 3;
      if (count > 0 && raw > rawLimit) break;
      count++;
    }
    return candidates.slice(0, Math.min(count, MAX_TILES)).sort((a, b) => a - b);
  }

  #unit(number: number, kind: 'change' | 'whole', clear: UnitClear, end: number): SourceUnit {
    const raw = this.#kernel.bytes.subarray(this.#out, end);
    const body = packBody(raw, this.#deflate);
    if (raw.length > 1024) this.#packing += (Math.min(1, body.length / raw.length) - this.#packing) * 0.2;
    return { number, kind, clear: encodeClear(clear, number), body };
  }

  #distance(tile: number, focus: { x: number; y: number }): number {
    const { x, y, width, height } = tileRect(this.grid, tile);
    return Math.abs(x + width / 2 - focus.x) + Math.abs(y + height / 2 - focus.y);
  }

  #nearest(tiles: number[], focus: { x: number; y: number } | undefined): number[] {
    if (!focus || tiles.length <= 1) return tiles;
    return tiles
      .map((tile) => ({ tile, far: this.#distance(tile, focus) }))
      .sort((a, b) => a.far - b.far)
      .map(({ tile }) => tile);
  }

  #isNearer(some: readonly number[], others: readonly number[], focus: { x: number; y: number } | undefined): boolean {
    if (!focus) return false;
    const least = (tiles: readonly number[]) => Math.min(...tiles.map((tile) => this.#distance(tile, focus)));
    return some.length > 0 && least(some) < least(others);
  }

  /** Whole columns, since a column that is complete stays so while its content scrolls. */
  #byColumns(tiles: number[], focus: { x: number; y: number } | undefined): number[] {
    const { columns } = this.grid;
    const near = focus ? Math.floor(focus.x / TILE_PX) : 0;
    return tiles.sort((a, b) => {
      const [ca, cb] = [a % columns, b % columns];
      return Math.abs(ca - near) - Math.abs(cb - near) || ca - cb || a - b;
    });
  }
}
