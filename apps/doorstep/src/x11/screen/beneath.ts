import type { Rect } from '@porch/screen';
import type { Composite, Render, Shape, XEvent } from 'x11';
import { hasCompositor } from '../server/compositor.ts';
import { common, rectOf } from '../server/rects.ts';
import type { XConnection } from '../server/connection.ts';
import type { ScreenExtensions } from '../server/extensions.ts';

const DAMAGE_NON_EMPTY = 3;
const VIEWABLE = 2;
const INPUT_OUTPUT = 1;
const PARENT_RELATIVE = 1;
const BELOW = 1;
const PLAIN = 0x5d6b6b;
const INCLUDE_INFERIORS = 1;
const BOUNDING = 0;
const DEPTH = 24;
const DEPTH_WITH_ALPHA = 32;
/** A request that the client library has without its last field. */
const UNREDIRECT_SUBWINDOWS = 4;
/** What changes the windows themselves, and not only what they show. */
const STRUCTURE: ReadonlySet<string | undefined> = new Set([
  'CreateNotify',
  'ConfigureNotify',
  'MapNotify',
  'UnmapNotify',
  'DestroyNotify',
  'ReparentNotify',
  'CirculateNotify',
]);

/** A window of the screen, as it lay when it was last looked at. */
interface Piece {
  readonly window: number;
  readonly at: Rect;
  readonly border: number;
  readonly hasAlpha: boolean;
}
/** What is kept of a window at the server as long as it is there. */
interface Known {
  readonly picture: number;
  readonly damage: number;
  isChanged: boolean;
}

export interface BeneathParts {
  readonly x: XConnection;
  readonly extensions: ScreenExtensions & { readonly shape: Shape };
  /** What lies on top and is left out: nobody but the person is to see it. */
  readonly cover: number | undefined;
  /** Nothing of the root window's own is shown. */
  readonly hasPlainGround: boolean;
  readonly size: { readonly width: number; readonly height: number };
  /** Windows that are never shown are not even put together. */
  isHidden(window: number): boolean;
  onChanged(): void;
}

/**
 * The screen as it would be without what is left out of it: put together in the server from what each window shows. What the
 * windows show is kept by the server also where nobody can see it (Composite, redirected automatically).
 */
export class Beneath {
  /** To be fetched from, once it is put together. */
  readonly drawable: number;
  readonly #parts: BeneathParts;
  readonly #composite: Composite;
  readonly #render: Render;
  readonly #target: number;
  /** Only then anything is see-through on the screen itself. */
  readonly #isComposited: boolean;
  readonly #ground: number;
  readonly #region: number;
  readonly #shape: number;
  readonly #known = new Map<number, Known>();
  readonly #listener = (event: XEvent): void => this.#follow(event);
  #pieces: readonly Piece[] = [];
  #isListStale = true;

  private constructor(parts: BeneathParts, composite: Composite, render: Render, isComposited: boolean) {
    this.#isComposited = isComposited;
    this.#parts = parts;
    this.#composite = composite;
    this.#render = render;
    const { x, size, extensions } = parts;
    const { client, root } = x;
    composite.RedirectSubwindows(root, composite.Redirect['Automatic'] ?? 0);
    // What the root window shows by itself cannot be read; a window that is see-through to it can.
    this.#ground = client.AllocID();
    client.CreateWindow(this.#ground, root, 0, 0, size.width, size.height, 0, 0, INPUT_OUTPUT, 0, {
      overrideRedirect: 1,
      ...(parts.hasPlainGround ? { backgroundPixel: PLAIN } : { backgroundPixmap: PARENT_RELATIVE }),
    });
    const { shape } = extensions;
    shape.Rectangles(shape.Op['Set'] ?? 0, shape.Kind['Input'] ?? 2, this.#ground, 0, 0, []);
    client.ConfigureWindow(this.#ground, { stackMode: BELOW });
    client.MapWindow(this.#ground);
    this.drawable = client.AllocID();
    client.CreatePixmap(this.drawable, root, DEPTH, size.width, size.height);
    this.#target = client.AllocID();
    render.CreatePicture(this.#target, this.drawable, render.rgb24, {});
    this.#region = client.AllocID();
    this.#shape = client.AllocID();
    extensions.fixes.CreateRegion(this.#region, []);
    client.on('event', this.#listener);
  }

  static async open(parts: BeneathParts): Promise<Beneath> {
    const { x } = parts;
    const composite = await x.extension<Composite>('composite');
    const beneath = new Beneath(parts, composite, await x.extension<Render>('render'), await hasCompositor(x));
    await x.flush();
    return beneath;
  }

  /** Whether windows lie now as they did when they were looked at: if not, what was put together is of two moments. */
  get isOfOneMoment(): boolean {
    return !this.#isListStale;
  }

  /** What has changed since the last time; everything, when windows themselves did. */
  async changed(): Promise<Rect[]> {
    const { x, extensions, size } = this.#parts;
    const isAll = this.#isListStale;
    if (isAll) await this.#list();
    const changed = this.#pieces.filter(({ window }) => this.#known.get(window)?.isChanged);
    const rects = await Promise.all(
      changed.map(async ({ window, at, border }) => {
        const known = this.#known.get(window);
        if (!known) return [];
        known.isChanged = false;
        extensions.damage.Subtract(known.damage, 0, this.#region);
        const { rectangles } = await x.ask<{ rectangles: Rect[] }>((cb) =>
          extensions.fixes.FetchRegion(this.#region, cb),
        );
        return rectangles.map((r) => ({ ...r, x: r.x + at.x + border, y: r.y + at.y + border }));
      }),
    );
    return isAll ? [{ x: 0, y: 0, ...size }] : rects.flat();
  }

  /** Puts this part of the screen together; what is fetched after it shows it. */
  putTogether(part: Rect): void {
    const { x, extensions, isHidden } = this.#parts;
    const { fixes } = extensions;
    const { Src = 1, Over = 3 } = this.#render.PictOp;
    x.together(() => {
      for (const { window, at, border, hasAlpha } of this.#pieces) {
        const known = this.#known.get(window);
        const inside = {
          x: at.x + border,
          y: at.y + border,
          width: at.width - 2 * border,
          height: at.height - 2 * border,
        };
        const seen = common(part, inside);
        if (!known || isHidden(window) || !seen) continue;
        fixes.CreateRegionFromWindow(this.#shape, window, BOUNDING);
        fixes.SetPictureClipRegion(this.#target, this.#shape, inside.x, inside.y);
        this.#render.Composite(
          hasAlpha && this.#isComposited ? Over : Src,
          known.picture,
          0,
          this.#target,
          seen.x - inside.x,
          seen.y - inside.y,
          0,
          0,
          seen.x,
          seen.y,
          seen.width,
          seen.height,
        );
        fixes.DestroyRegion(this.#shape);
      }
      fixes.SetPictureClipRegion(this.#target, 0, 0, 0);
    });
  }
  close(): void {
    const { x, extensions } = this.#parts;
    x.client.removeListener('event', this.#listener);
    if (x.isGone) return;
    for (const window of [...this.#known.keys()]) this.#forget(window);
    extensions.fixes.DestroyRegion(this.#region);
    this.#render.FreePicture(this.#target);
    x.client.FreePixmap(this.drawable);
    x.client.DestroyWindow(this.#ground);
    this.#unredirect();
  }

  #unredirect(): void {
    const { client, root } = this.#parts.x;
    const request = Buffer.alloc(12);
    request[0] = this.#composite.majorOpcode;
    request[1] = UNREDIRECT_SUBWINDOWS;
    request.writeUInt16LE(request.length / 4, 2);
    request.writeUInt32LE(root, 4);
    request[8] = this.#composite.Redirect['Automatic'] ?? 0;
    client.seq_num++;
    client.pack_stream.put(request);
    client.pack_stream.submit();
  }

  #follow(event: XEvent): void {
    if (event.name === 'DamageNotify') {
      const known = [...this.#known.values()].find(({ damage }) => damage === event['damage']);
      if (!known) return;
      known.isChanged = true;
    } else if (STRUCTURE.has(event.name)) {
      this.#isListStale = true;
    } else return;
    this.#parts.onChanged();
  }

  /** Every window that is to be seen, from the lowest to the highest. */
  async #list(): Promise<void> {
    // Before anything is asked: what changes while it is answered makes the answer stale.
    this.#isListStale = false;
    const { x } = this.#parts;
    const { children } = await x.ask<{ children: number[] }>((cb) => x.client.QueryTree(x.root, cb));
    const found = await Promise.all(children.map((window) => this.#look(window)));
    this.#pieces = found.filter((piece) => piece !== undefined);
    const there = new Set(this.#pieces.map(({ window }) => window));
    for (const window of [...this.#known.keys()]) if (!there.has(window)) this.#forget(window);
    for (const piece of this.#pieces) this.#keep(piece);
  }

  async #look(window: number): Promise<Piece | undefined> {
    const { x, cover } = this.#parts;
    // The overlay is the server's own; so is nothing else there.
    const isServers = (window & ~x.client.display.resource_mask) === 0;
    if (isServers || window === cover) return undefined;
    try {
      const [how, where] = await Promise.all([
        x.ask<{ mapState: number; klass: number }>((cb) => x.client.GetWindowAttributes(window, cb)),
        x.ask<Parameters<typeof rectOf>[0] & { depth: number }>((cb) => x.client.GetGeometry(window, cb)),
      ]);
      const { depth, borderWidth: border = 0 } = where;
      const isSeen = how.mapState === VIEWABLE && how.klass === INPUT_OUTPUT;
      if (!isSeen || (depth !== DEPTH && depth !== DEPTH_WITH_ALPHA)) return undefined;
      return { window, at: rectOf(where), border, hasAlpha: depth === DEPTH_WITH_ALPHA };
    } catch (error) {
      if (x.isGone) throw error;
      return undefined; // Gone meanwhile.
    }
  }

  #keep({ window, hasAlpha }: Piece): void {
    if (this.#known.has(window)) return;
    const { x, extensions } = this.#parts;
    const known: Known = { picture: x.client.AllocID(), damage: x.client.AllocID(), isChanged: false };
    const { rgba32, rgb24 } = this.#render;
    this.#render.CreatePicture(known.picture, window, hasAlpha ? rgba32 : rgb24, { subwindowMode: INCLUDE_INFERIORS });
    extensions.damage.Create(known.damage, window, DAMAGE_NON_EMPTY);
    this.#known.set(window, known);
  }
  /** At the server both went with the window, if it went. */
  #forget(window: number): void {
    const known = this.#known.get(window);
    this.#known.delete(window);
    if (!known || this.#parts.x.isGone) return;
    this.#parts.extensions.damage.Destroy(known.damage);
    this.#render.FreePicture(known.picture);
  }
}
