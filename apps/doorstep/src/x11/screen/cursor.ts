import type { ScreenWatcher } from '@porch/host';
import type { CursorShape } from '@porch/screen';
import type { XConnection } from '../server/connection.ts';
import type { ScreenExtensions } from '../server/extensions.ts';

interface CursorImage {
  readonly width: number;
  readonly height: number;
  readonly xhot: number;
  readonly yhot: number;
  readonly cursorImage: Buffer;
}

/** Asks where the pointer is and what it looks like, and tells it. */
export class Cursor {
  readonly #x: XConnection;
  readonly #fixes: ScreenExtensions['fixes'];
  readonly #watcher: ScreenWatcher;

  constructor(x: XConnection, { fixes }: ScreenExtensions, watcher: ScreenWatcher) {
    this.#x = x;
    this.#fixes = fixes;
    this.#watcher = watcher;
    fixes.SelectCursorInput(x.root, 1);
  }

  async tellPosition(): Promise<void> {
    const { client, root } = this.#x;
    const { rootX, rootY } = await this.#x.ask<{ rootX: number; rootY: number }>((cb) => client.QueryPointer(root, cb));
    this.#watcher.onCursorPosition(Math.max(0, rootX), Math.max(0, rootY));
  }

  async tellShape(): Promise<void> {
    this.#watcher.onCursorShape(shapeOf(await this.#x.ask<CursorImage>((cb) => this.#fixes.GetCursorImage(cb))));
  }
}

/** XFIXES gives premultiplied ARGB words; viewers want plain R G B A. */
function shapeOf({ width, height, xhot, yhot, cursorImage }: CursorImage): CursorShape {
  const rgba = new Uint8ClampedArray(width * height * 4);
  for (let at = 0; at < rgba.length; at += 4) {
    const alpha = cursorImage[at + 3] ?? 0;
    const plain = (value: number | undefined) => (alpha ? ((value ?? 0) * 255) / alpha : 0);
    rgba[at] = plain(cursorImage[at + 2]);
    rgba[at + 1] = plain(cursorImage[at + 1]);
    rgba[at + 2] = plain(cursorImage[at]);
    rgba[at + 3] = alpha;
  }
  return { width, height, hotX: xhot, hotY: yhot, rgba };
}
