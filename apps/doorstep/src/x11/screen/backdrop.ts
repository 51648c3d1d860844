import type { Shape } from 'x11';
import type { XConnection } from '../server/connection.ts';

const COLOUR = 0x5d6b6b;
const INPUT_OUTPUT = 1;
const ATOM_ATOM = 4;
/** Stack modes of ConfigureWindow. */
const ABOVE = 0;
const BELOW = 1;

/**
 * A plain window behind all others, so that a wallpaper need not be sent. Clicks go through it. The server takes it away
 * when this program ends, however it ends: the customer's own wallpaper is never touched.
 */
export class Backdrop {
  readonly #x: XConnection;
  readonly #shape: Shape;
  #window: number | undefined;

  constructor(x: XConnection, shape: Shape) {
    this.#x = x;
    this.#shape = shape;
  }

  get isShown(): boolean {
    return this.#window !== undefined;
  }

  async show(): Promise<void> {
    if (this.#window !== undefined || this.#x.isGone) return;
    const { client, root } = this.#x;
    const { width, height } = await this.#x.size();
    const desktop = await this.#desktopWindow();
    const window = client.AllocID();
    this.#window = window;
    client.CreateWindow(window, root, 0, 0, width, height, 0, 0, INPUT_OUTPUT, 0, {
      overrideRedirect: 1,
      backgroundPixel: COLOUR,
    });
    this.#shape.Rectangles(this.#shape.Op['Set'] ?? 0, this.#shape.Kind['Input'] ?? 2, window, 0, 0, []);
    if (desktop === undefined) client.ConfigureWindow(window, { stackMode: BELOW });
    else client.ConfigureWindow(window, { sibling: desktop, stackMode: ABOVE });
    client.MapWindow(window);
    await this.#x.flush();
  }

  async hide(): Promise<void> {
    if (this.#window === undefined || this.#x.isGone) return;
    this.#x.client.DestroyWindow(this.#window);
    this.#window = undefined;
    await this.#x.flush();
  }

  /** The window that draws a wallpaper and icons, if a program does. */
  async #desktopWindow(): Promise<number | undefined> {
    const { client, root } = this.#x;
    const type = await this.#x.atom('_NET_WM_WINDOW_TYPE');
    const desktop = await this.#x.atom('_NET_WM_WINDOW_TYPE_DESKTOP');
    const { children } = await this.#x.ask<{ children: number[] }>((cb) => client.QueryTree(root, cb));
    for (const child of children) {
      const { data } = await this.#x
        .ask<{ data: Buffer }>((cb) => client.GetProperty(0, child, type, ATOM_ATOM, 0, 16, cb))
        // A window that has gone meanwhile draws nothing.
        .catch(() => ({ data: Buffer.alloc(0) }));
      for (let at = 0; at + 4 <= data.length; at += 4) if (data.readUInt32LE(at) === desktop) return child;
    }
    return undefined;
  }
}
