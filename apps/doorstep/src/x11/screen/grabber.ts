import type { Rect } from '@porch/screen';
import type { CapturedPiece } from '@porch/host';
import type { ShmSegment } from 'x11';
import type { HiddenWindows } from '../hiding/hidden-windows.ts';
import { around } from '../server/rects.ts';
import type { XConnection } from '../server/connection.ts';
import type { ScreenExtensions } from '../server/extensions.ts';

/** With more pieces than this, one grab of what bounds them all is cheaper. */
const MAX_PIECES = 48;
const DAMAGE_NON_EMPTY = 3;
const ALL_PLANES = 0xffffffff;
const Z_PIXMAP = 2;

interface Size {
  readonly width: number;
  readonly height: number;
}

/** Knows what changed since it last grabbed (DAMAGE), and fetches just that through shared memory. */
export class Grabber {
  readonly damageId: number;
  readonly #x: XConnection;
  readonly #extensions: ScreenExtensions;
  readonly #hidden: HiddenWindows;
  readonly #region: number;
  #size: Size;
  #segment: ShmSegment;

  private constructor(
    x: XConnection,
    extensions: ScreenExtensions,
    hidden: HiddenWindows,
    size: Size,
    segment: ShmSegment,
  ) {
    this.#x = x;
    this.#extensions = extensions;
    this.#hidden = hidden;
    this.#size = size;
    this.#segment = segment;
    this.damageId = x.client.AllocID();
    this.#region = x.client.AllocID();
    extensions.damage.Create(this.damageId, x.root, DAMAGE_NON_EMPTY);
    extensions.fixes.CreateRegion(this.#region, []);
  }

  static async open(x: XConnection, extensions: ScreenExtensions, hidden: HiddenWindows): Promise<Grabber> {
    const size = await x.size();
    return new Grabber(x, extensions, hidden, size, await openSegment(x, extensions, size));
  }

  /** False when it has this size already. */
  async setSize(size: Size): Promise<boolean> {
    if (size.width === this.#size.width && size.height === this.#size.height) return false;
    this.#size = size;
    const old = this.#segment;
    this.#segment = await openSegment(this.#x, this.#extensions, size);
    old.detach(() => true);
    return true;
  }

  /** The pixels are a view on what the next grab writes over. */
  async grab(isWhole: boolean): Promise<CapturedPiece[]> {
    const { damage, fixes } = this.#extensions;
    damage.Subtract(this.damageId, 0, this.#region);
    const changed = await this.#x.ask<{ rectangles: Rect[] }>((cb) => fixes.FetchRegion(this.#region, cb));
    const rects = isWhole ? [{ x: 0, y: 0, ...this.#size }] : this.#gather(changed.rectangles);
    let end = 0;
    return Promise.all(
      rects.map((rect) => {
        const at = end;
        end += rect.width * rect.height * 4;
        return this.#fetch(rect, at);
      }),
    );
  }

  close(): void {
    if (this.#x.isGone) return;
    this.#extensions.damage.Destroy(this.damageId);
    this.#extensions.fixes.DestroyRegion(this.#region);
    this.#segment.detach(() => true);
  }

  async #fetch(rect: Rect, at: number): Promise<CapturedPiece> {
    const segment = this.#segment;
    let covered: readonly Rect[] = [];
    const { x, y, width, height } = rect;
    await this.#x.ask<unknown>((cb) =>
      segment.getImage(this.#x.root, x, y, width, height, ALL_PLANES, Z_PIXMAP, at, (error, result) => {
        // Now, and not later: this is how windows lay when these pixels were taken.
        covered = this.#hidden.rects;
        return cb(error, result);
      }),
    );
    const pixels = new Uint32Array(segment.buffer.buffer, segment.buffer.byteOffset + at, width * height);
    return { rect, covered, pixels };
  }

  /** Pieces within the display, no more than the segment holds. */
  #gather(changed: readonly Rect[]): Rect[] {
    const within = changed
      .map((r) => ({
        x: Math.max(0, r.x),
        y: Math.max(0, r.y),
        width: Math.min(r.x + r.width, this.#size.width) - Math.max(0, r.x),
        height: Math.min(r.y + r.height, this.#size.height) - Math.max(0, r.y),
      }))
      .filter((r) => r.width > 0 && r.height > 0);
    const pieces = mergeNear(within);
    return pieces.length <= MAX_PIECES ? pieces : [pieces.reduce(around)];
  }
}

/** Asking for one more piece costs as much as fetching so many pixels that did not change. */
const PIECE_PIXELS = 20_000;
const areaOf = ({ width, height }: Rect): number => width * height;
/** Pieces that are fetched together sooner than one by one: a slanting stroke is as many rectangles as it has rows. */
export function mergeNear(rects: readonly Rect[]): Rect[] {
  const merged: { rect: Rect; changed: number }[] = [];
  for (const rect of rects) {
    const near = merged.find((one) => areaOf(around(one.rect, rect)) - one.changed - areaOf(rect) < PIECE_PIXELS);
    if (near) {
      near.rect = around(near.rect, rect);
      near.changed += areaOf(rect);
    } else merged.push({ rect, changed: areaOf(rect) });
  }
  return merged.map(({ rect }) => rect);
}

const openSegment = (x: XConnection, { shm }: ScreenExtensions, { width, height }: Size): Promise<ShmSegment> =>
  x.ask<ShmSegment>((cb) => shm.createSegment(width * height * 4, cb));
