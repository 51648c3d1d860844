import { XConnection } from '@porch/doorstep';
import { screenPixels } from './screen-pixels.ts';

/** Masks of the X11 protocol. */
const KEY_PRESS = 1;
const BUTTON_PRESS = 4;

/** A program of another's that has the keyboard: which keys reach it, and where it is clicked. */
export class KeyCatcher {
  readonly x: XConnection;
  readonly window: number;
  /** Keycodes, and -1 for each button. */
  heard: number[] = [];

  private constructor(x: XConnection, window: number) {
    this.x = x;
    this.window = window;
  }

  static async at(
    display: string,
    box: { x: number; y: number; width: number; height: number },
    colour: number,
  ): Promise<KeyCatcher> {
    const x = await XConnection.open(display, () => undefined);
    const window = x.client.AllocID();
    x.client.CreateWindow(window, x.root, box.x, box.y, box.width, box.height, 0, 0, 1, 0, {
      overrideRedirect: 1,
      backgroundPixel: colour,
      eventMask: KEY_PRESS | BUTTON_PRESS,
    });
    x.client.MapWindow(window);
    await x.flush();
    const catcher = new KeyCatcher(x, window);
    x.client.on('event', (event) => {
      if (event.name === 'KeyPress') catcher.heard.push(event.keycode ?? 0);
      if (event.name === 'ButtonPress') catcher.heard.push(-1);
    });
    await catcher.focus();
    return catcher;
  }

  /** The same, with a title by which the person here can choose it. */
  static async titled(
    display: string,
    title: string,
    { at: [x, y], colour }: { readonly at: readonly [number, number]; readonly colour: number },
  ): Promise<KeyCatcher> {
    const catcher = await KeyCatcher.at(display, { x, y, width: 400, height: 300 }, colour);
    const [name, string] = [await catcher.x.atom('WM_NAME'), await catcher.x.atom('STRING')];
    catcher.x.client.ChangeProperty(0, catcher.window, name, string, 8, Buffer.from(title));
    await catcher.x.flush();
    return catcher;
  }

  async focus(): Promise<void> {
    this.x.client.SetInputFocus(this.window, 1);
    await this.x.flush();
  }
  async paint(colour: number): Promise<void> {
    this.x.client.ChangeWindowAttributes(this.window, { backgroundPixel: colour });
    this.x.client.ClearArea(this.window, 0, 0, 0, 0, 0);
    await this.x.flush();
  }
  /** What somebody in front of the screen sees. */
  screen(part: { x: number; y: number; width: number; height: number }): Promise<Uint32Array> {
    return screenPixels(this.x, part);
  }
  close(): void {
    this.x.close();
  }
}
