import type { CursorShape, Rect } from '@porch/screen';
import type { ShmSegment, XEvent } from 'x11';
import type { ScreenWatcher } from '@porch/host';
import { ROOT_EVENTS, type HiddenWindows } from './hidden-windows.ts';
import { followMonitors } from './monitors.ts';
import type { XConnection, XExtensions } from './x-connection.ts';

/** Grabs are at least this far apart: as fast as screens are drawn, and no faster. */
const GRAB_MS = 12;
const POINTER_MS = 12;
/** While nobody may grab, it is looked at again this often. */
const WAIT_MS = 8;
/** With more pieces than this, one grab of what bounds them all is cheaper. */
const MAX_PIECES = 48;
const DAMAGE_NON_EMPTY = 3;
const ALL_PLANES = 0xffffffff;
const Z_PIXMAP = 2;

/**
 * Follows the screen: DAMAGE says what changed, shared memory fetches just that, XFIXES has the cursor. While nobody
 * may grab, changes gather in the server and cost nothing.
 */
export async function watchScreen(
  x: XConnection,
  extensions: XExtensions,
  watcher: ScreenWatcher,
  mayGrab: () => boolean,
  leastGapMs: () => number,
  hidden: HiddenWindows,
): Promise<{ stop: () => void; captureAll: () => void }> {
  const { damage, fixes, shm, xinput } = extensions;
  const { client, root } = x;
  let size = await x.size();
  let segment = await openSegment();
  const damageId = client.AllocID();
  const region = client.AllocID();
  let isStopped = false;
  let isBusy = false;
  let isWholeDue = true;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let pointerTimer: ReturnType<typeof setTimeout> | undefined;
  let grabbedAtMs = -Infinity;

  function openSegment(): Promise<ShmSegment> {
    return x.ask<ShmSegment>((cb) => shm.createSegment(size.width * size.height * 4, cb));
  }
  const grabSoon = (leastMs = 0) => {
    if (isStopped || timer) return;
    const waitMs = Math.max(leastMs, grabbedAtMs + Math.max(GRAB_MS, leastGapMs()) - performance.now());
    // Nothing was grabbed for long: a key was pressed, and somebody waits to see it.
    if (waitMs <= 0 && !isBusy && mayGrab()) {
      void grab().catch(ignoreOnceGone);
      return;
    }
    timer = setTimeout(
      () => {
        timer = undefined;
        if (isBusy || !mayGrab()) grabSoon(WAIT_MS);
        else void grab().catch(ignoreOnceGone);
      },
      Math.max(1, waitMs),
    );
  };
  const ignoreOnceGone = (error: unknown) => {
    // A lost server is told through `onGone`; a region of a display that has just shrunk is asked for again.
    if (!x.isGone && !isStopped) {
      isWholeDue = true;
      if (!(error instanceof Error && /Bad/.test(error.message))) throw error;
      grabSoon();
    }
  };
  async function grab(): Promise<void> {
    if (isStopped) return;
    isBusy = true;
    grabbedAtMs = performance.now();
    try {
      damage.Subtract(damageId, 0, region);
      const changed = (await x.ask<{ rectangles: Rect[] }>((cb) => fixes.FetchRegion(region, cb))).rectangles;
      const isWhole = isWholeDue;
      isWholeDue = false;
      const rects = isWhole ? [{ x: 0, y: 0, ...size }] : gather(changed);
      let offset = 0;
      const pieces = await Promise.all(
        rects.map(async (rect) => {
          const at = offset;
          offset += rect.width * rect.height * 4;
          let covered: readonly Rect[] = [];
          await x.ask<unknown>((cb) =>
            segment.getImage(
              root,
              rect.x,
              rect.y,
              rect.width,
              rect.height,
              ALL_PLANES,
              Z_PIXMAP,
              at,
              (error, result) => {
                // Now, and not later: this is how windows lay when these pixels were taken.
                covered = hidden.rects;
                return cb(error, result);
              },
            ),
          );
          return {
            rect,
            covered,
            pixels: new Uint32Array(segment.buffer.buffer, segment.buffer.byteOffset + at, rect.width * rect.height),
          };
        }),
      );
      if (!isStopped && pieces.length) watcher.onPixels(pieces);
    } finally {
      isBusy = false;
    }
  }
  /** Pieces within the display, no more than the segment holds. */
  function gather(changed: readonly Rect[]): Rect[] {
    const within = changed
      .map((r) => ({
        x: Math.max(0, r.x),
        y: Math.max(0, r.y),
        width: Math.min(r.x + r.width, size.width) - Math.max(0, r.x),
        height: Math.min(r.y + r.height, size.height) - Math.max(0, r.y),
      }))
      .filter((r) => r.width > 0 && r.height > 0);
    if (within.length <= MAX_PIECES) return within;
    const left = Math.min(...within.map((r) => r.x));
    const top = Math.min(...within.map((r) => r.y));
    return [
      {
        x: left,
        y: top,
        width: Math.max(...within.map((r) => r.x + r.width)) - left,
        height: Math.max(...within.map((r) => r.y + r.height)) - top,
      },
    ];
  }
  async function tellPointer(): Promise<void> {
    const { rootX, rootY } = await x.ask<{ rootX: number; rootY: number }>((cb) => client.QueryPointer(root, cb));
    if (!isStopped) watcher.onCursorPosition(Math.max(0, rootX), Math.max(0, rootY));
  }
  async function tellCursor(): Promise<void> {
    const image = await x.ask<{ width: number; height: number; xhot: number; yhot: number; cursorImage: Buffer }>(
      (cb) => fixes.GetCursorImage(cb),
    );
    if (!isStopped) watcher.onCursorShape(cursorShape(image));
  }
  async function takeSize(width: number, height: number): Promise<void> {
    if (width === size.width && height === size.height) return;
    size = { width, height };
    const old = segment;
    segment = await openSegment();
    old.detach(() => true);
    isWholeDue = true;
    grabSoon();
  }
  const captureAll = () => {
    isWholeDue = true;
    grabSoon();
  };
  const listener = (event: XEvent) => {
    if (event.name === 'DamageNotify') {
      if (event['damage'] === damageId) grabSoon();
    } else if (event.name === 'CursorNotify') void tellCursor().catch(ignoreOnceGone);
    else if (event.name === 'ConfigureNotify' && event['wid1'] === root)
      void takeSize(event.width ?? size.width, event.height ?? size.height).catch(ignoreOnceGone);
    else if (event.name === 'XIRawMotion')
      pointerTimer ??= setTimeout(() => {
        pointerTimer = undefined;
        void tellPointer().catch(ignoreOnceGone);
      }, POINTER_MS);
  };
  hidden.onUncovered = captureAll;
  client.on('event', listener);
  client.ChangeWindowAttributes(root, { eventMask: ROOT_EVENTS });
  damage.Create(damageId, root, DAMAGE_NON_EMPTY);
  fixes.CreateRegion(region, []);
  fixes.SelectCursorInput(root, 1);
  xinput.XISelectEvents(root, [{ deviceId: 1, mask: rawMask(extensions) }]);
  const stopMonitors = await followMonitors(x, extensions, (monitors) => {
    if (isStopped) return;
    watcher.onMonitors(monitors);
    captureAll();
  });
  await tellCursor();
  await tellPointer();
  grabSoon();
  const stop = () => {
    isStopped = true;
    stopMonitors();
    clearTimeout(timer);
    clearTimeout(pointerTimer);
    client.removeListener('event', listener);
    if (x.isGone) return;
    damage.Destroy(damageId);
    fixes.DestroyRegion(region);
    segment.detach(() => true);
  };
  return { stop, captureAll };
}

/** Raw events of every device: where the pointer goes, and whether a person moved it. One mask for both listeners. */
export function rawMask({ xinput }: XExtensions): number {
  const { RawMotion = 0, RawButtonPress = 0, RawKeyPress = 0 } = xinput.EventMask;
  return RawMotion | RawButtonPress | RawKeyPress;
}

/** XFIXES gives premultiplied ARGB words; viewers want plain R G B A. */
function cursorShape(image: {
  width: number;
  height: number;
  xhot: number;
  yhot: number;
  cursorImage: Buffer;
}): CursorShape {
  const { width, height, cursorImage } = image;
  const rgba = new Uint8ClampedArray(width * height * 4);
  for (let at = 0; at < rgba.length; at += 4) {
    const alpha = cursorImage[at + 3] ?? 0;
    const plain = (value: number | undefined) => (alpha ? ((value ?? 0) * 255) / alpha : 0);
    rgba[at] = plain(cursorImage[at + 2]);
    rgba[at + 1] = plain(cursorImage[at + 1]);
    rgba[at + 2] = plain(cursorImage[at]);
    rgba[at + 3] = alpha;
  }
  return { width, height, hotX: image.xhot, hotY: image.yhot, rgba };
}
