import type { Rect } from '@porch/screen';
import type { CapturedPiece } from '@porch/host';
import type { ShmSegment } from 'x11';
import type { HiddenWindows } from '../hiding/hidden-windows.ts';
import { around } from '../server/rects.ts';
import type { Beneath } from './beneath.ts';
import type { XConnection } from '../server/connection.ts';
import type { ScreenExtensions } from '../server/extensions.ts';

/** With more pieces than this, one grab of what bounds them all is cheaper. */
const MAX_PIECES = 48;
/** Windows that move all the time: after so many tries the picture is covered where it is not sure. */
const MOST_TRIES = 5;
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
  /** Set while a cover lies over the screen: then that is what is fetched. */
  beneath: Beneath | undefined;
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

  get size(): Size {
    return this.#size;
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
    const { rectangles } = await this.#x.ask<{ rectangles: Rect[] }>((cb) => fixes.FetchRegion(this.#region, cb));
    const whole = [{ x: 0, y: 0, ...this.#size }];
    if (this.beneath) return this.#grabBeneath(this.beneath, isWhole ? whole : undefined);
    return this.#fetchAll(this.#x.root, isWhole ? whole : this.#gather(rectangles));
  }

  /**
   * What was put together is of one moment only when no window moved meanwhile; otherwise something that is hidden could
   * stand where it was a moment ago, and it is put together again.
   */
  async #grabBeneath(beneath: Beneath, wanted: readonly Rect[] | undefined): Promise<CapturedPiece[]> {
    let due = wanted ?? [];
    for (let tried = 0; ; tried++) {
      const changed = await beneath.changed();
      due = wanted ?? this.#gather([...due, ...changed]);
      for (const rect of due) beneath.putTogether(rect);
      const pieces = await this.#fetchAll(beneath.drawable, due);
      if (beneath.isOfOneMoment) return pieces;
      if (tried === MOST_TRIES) return pieces.map((piece) => ({ ...piece, covered: [piece.rect] }));
    }
  }

  #fetchAll(drawable: number, rects: readonly Rect[]): Promise<CapturedPiece[]> {
    let end = 0;
    return Promise.all(
      rects.map((rect) => {
        const at = end;
        end += rect.width * rect.height * 4;
        return this.#fetch(drawable, rect, at);
      }),
    );
  }

  close(): void {
    if (this.#x.isGone) return;
    this.#extensions.damage.Destroy(this.damageId);
    this.#extensions.fixes.DestroyRegion(this.#region);
    this.#segment.detach(() => true);
  }

  async #fetch(drawable: number, rect: Rect, at: number): Promise<CapturedPiece> {
    const segment = this.#segment;
    let covered: readonly Rect[] = [];
    const { x, y, width, height } = rect;
    await this.#x.ask<unknown>((cb) =>
      segment.getImage(drawable, x, y, width, height, ALL_PLANES, Z_PIXMAP, at, (error, result) => {
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
