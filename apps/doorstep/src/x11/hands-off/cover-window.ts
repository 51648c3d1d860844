import x11, { type Composite, type Fixes, type XEvent } from 'x11';
import type { Box } from '../server/box.ts';
import { hasCompositor } from '../server/compositor.ts';
import type { XConnection } from '../server/connection.ts';
import { paint } from '../server/painting.ts';
import { renderSvg } from '../server/text-picture.ts';
import { cardOn } from './panel.ts';

const GROUND = 0x0a2a2f;
const INPUT_SHAPE = 2;
/** Where a compositor draws the screen it is raised at most this often. */
const RAISE_MS = 5;

/** Above everything on the screen. Clicks go through it, for they are the technician's as well as the person's. */
export class CoverWindow {
  readonly id: number;
  readonly #x: XConnection;
  readonly #gc: number;
  readonly #cards: readonly Box[];
  #raise: ReturnType<typeof setTimeout> | undefined;
  #raisedAtMs = -Infinity;

  private constructor(x: XConnection, id: number, cards: readonly Box[]) {
    this.#x = x;
    this.id = id;
    this.#gc = x.client.AllocID();
    this.#cards = cards;
    x.client.CreateGC(this.#gc, id, {});
  }

  /** Not seen yet. `onGone`: another program took it away. */
  static async create(
    x: XConnection,
    fixes: Fixes,
    monitors: readonly Box[],
    onGone: () => void,
  ): Promise<CoverWindow> {
    const { client, root } = x;
    const isComposited = await hasCompositor(x);
    const composite = isComposited ? undefined : await x.extension<Composite>('composite');
    // The overlay window is above every other one for ever; but a compositor draws in it, and would draw over us.
    const overlay = composite && (await x.ask<number>((cb) => composite.GetOverlayWindow(root, cb)));
    const { width, height } = await x.size();
    const id = client.AllocID();
    client.CreateWindow(id, overlay ?? root, 0, 0, width, height, 0, 0, 0, 0, {
      overrideRedirect: 1,
      backgroundPixel: GROUND,
      eventMask: ['Exposure', 'VisibilityChange', 'StructureNotify'].reduce(
        (all, name) => all | (x11.eventMask[name] ?? 0),
        0,
      ),
    });
    const cover = new CoverWindow(x, id, monitors.map(cardOn));
    const none = client.AllocID();
    fixes.CreateRegion(none, []);
    for (const window of overlay === undefined ? [id] : [overlay, id])
      fixes.SetWindowShapeRegion(window, INPUT_SHAPE, 0, 0, none);
    if (overlay === undefined) cover.#stayOnTop();
    const follow = (event: XEvent) => {
      if (event.name === 'DestroyNotify' && event.wid === id) onGone();
      else if (event.name === 'ConfigureNotify' && event['wid1'] === root)
        client.ConfigureWindow(id, { width: event.width ?? width, height: event.height ?? height });
    };
    client.on('event', follow);
    const { StructureNotify = 0, SubstructureNotify = 0 } = x11.eventMask;
    client.ChangeWindowAttributes(root, { eventMask: StructureNotify | (isComposited ? SubstructureNotify : 0) });
    return cover;
  }

  show(): Promise<void> {
    this.#x.client.MapWindow(this.id);
    this.#x.client.RaiseWindow(this.id);
    return this.#x.flush();
  }

  async draw(cardOf: (size: { width: number; height: number }) => string): Promise<void> {
    for (const card of this.#cards) {
      const picture = await renderSvg(cardOf(card));
      if (!this.#x.isGone) paint(this.#x, this.id, this.#gc, picture, card);
    }
  }

  #stayOnTop(): void {
    this.#x.client.on('event', (event) => {
      const isOthers = (event['wid1'] ?? event.wid) !== this.id;
      const isAbove = event.name === 'MapNotify' || event.name === 'ConfigureNotify';
      if ((isAbove && isOthers) || (event.name === 'VisibilityNotify' && event.visibility !== 0)) this.#raiseSoon();
    });
  }
  /** At once; and no more often than that when another window fights for the top. */
  #raiseSoon(): void {
    if (this.#raise) return;
    const waitMs = Math.max(0, this.#raisedAtMs + RAISE_MS - performance.now());
    const raise = () => {
      this.#raise = undefined;
      this.#raisedAtMs = performance.now();
      if (!this.#x.isGone) this.#x.client.RaiseWindow(this.id);
    };
    if (waitMs === 0) raise();
    else this.#raise = setTimeout(raise, waitMs);
  }
}
