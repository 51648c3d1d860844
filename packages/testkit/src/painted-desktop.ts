import type { Monitor, ScreenSource, ScreenWatcher } from '@porch/host';
import type { CursorShape } from '@porch/screen';

/** A desktop that a test paints: what Doorstep needs of one in order to share it, and nothing to press. */
export class PaintedDesktop {
  readonly pixels: Uint32Array;
  #watcher: ScreenWatcher | undefined;
  #mayGrab: () => boolean = () => false;
  #timer: ReturnType<typeof setTimeout> | undefined;
  monitors: readonly Monitor[];
  isWallpaperHidden = false;

  readonly width: number;
  readonly height: number;

  constructor(width: number, height: number) {
    this.width = width;
    this.height = height;
    this.pixels = new Uint32Array(width * height);
    this.monitors = [{ name: 'Painted', rect: { x: 0, y: 0, width, height } }];
  }

  get desktop(): ScreenSource {
    return this;
  }
  size = () => ({ width: this.width, height: this.height });

  watchScreen(watcher: ScreenWatcher, mayGrab: () => boolean): Promise<() => void> {
    this.#watcher = watcher;
    this.#mayGrab = mayGrab;
    watcher.onMonitors(this.monitors);
    this.captureAll();
    return Promise.resolve(() => {
      this.#watcher = undefined;
      clearTimeout(this.#timer);
    });
  }

  /** Tells everything as soon as it may be told, like a real desktop. */
  captureAll(): void {
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => {
      if (!this.#watcher) return;
      if (!this.#mayGrab()) this.captureAll();
      else this.#watcher.onPixels([{ rect: { x: 0, y: 0, ...this.size() }, pixels: this.pixels, covered: [] }]);
    }, 2);
  }

  /** Whether it stands still: then it answers nobody until it goes on. */
  isFrozen = false;
  answers(): Promise<void> {
    return this.isFrozen ? new Promise(() => undefined) : Promise.resolve();
  }

  hideWallpaper(isHidden: boolean): Promise<void> {
    this.isWallpaperHidden = isHidden;
    return Promise.resolve();
  }

  fill(colour: number): void {
    this.pixels.fill(colour);
    this.captureAll();
  }

  /** Paints by position, and tells. */
  paint(colourAt: (x: number, y: number) => number): void {
    for (let i = 0; i < this.pixels.length; i++)
      this.pixels[i] = colourAt(i % this.width, Math.floor(i / this.width)) & 0xffffff;
    this.captureAll();
  }

  point(x: number, y: number): void {
    this.#watcher?.onCursorPosition(x, y);
  }
  shape(shape: CursorShape): void {
    this.#watcher?.onCursorShape(shape);
  }
}
