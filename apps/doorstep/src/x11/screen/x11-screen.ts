import type { ScreenSource, ScreenWatcher } from '@porch/host';
import type { HiddenWindows } from '../hiding/hidden-windows.ts';
import type { InkPace } from '../server/ink-pace.ts';
import type { XConnection } from '../server/connection.ts';
import type { BasicExtensions, ScreenExtensions } from '../server/extensions.ts';
import { Backdrop } from './backdrop.ts';
import { ScreenWatch } from './screen-watch.ts';

/** What is to be seen on this desktop. */
export class X11Screen implements ScreenSource {
  readonly #x: XConnection;
  readonly #extensions: ScreenExtensions & BasicExtensions;
  readonly #hidden: HiddenWindows;
  readonly #backdrop: Backdrop;
  readonly #pace: InkPace;
  #size: { width: number; height: number };
  #watch: ScreenWatch | undefined;

  private constructor(
    x: XConnection,
    extensions: ScreenExtensions & BasicExtensions,
    hidden: HiddenWindows,
    size: { width: number; height: number },
    pace: InkPace,
  ) {
    this.#pace = pace;
    this.#x = x;
    this.#extensions = extensions;
    this.#hidden = hidden;
    this.#backdrop = new Backdrop(x, extensions.shape);
    this.#size = size;
  }
  static async open(
    x: XConnection,
    extensions: ScreenExtensions & BasicExtensions,
    hidden: HiddenWindows,
    pace: InkPace,
  ): Promise<X11Screen> {
    return new X11Screen(x, extensions, hidden, await x.size(), pace);
  }

  size = () => this.#size;

  async watchScreen(watcher: ScreenWatcher, mayGrab: () => boolean, leastGapMs: () => number): Promise<() => void> {
    const onMonitors: ScreenWatcher['onMonitors'] = (monitors) => {
      this.#size = {
        width: Math.max(...monitors.map(({ rect }) => rect.x + rect.width)),
        height: Math.max(...monitors.map(({ rect }) => rect.y + rect.height)),
      };
      watcher.onMonitors(monitors);
    };
    const watch = await ScreenWatch.start({
      x: this.#x,
      extensions: this.#extensions,
      hidden: this.#hidden,
      watcher: { ...watcher, onMonitors },
      mayGrab,
      leastGapMs,
      pace: this.#pace,
    });
    this.#watch = watch;
    if (this.#hidden.coverWindow !== undefined || this.#hidden.shown.what !== 'everything')
      await watch.lookBeneath(this.#hidden.coverWindow);
    return () => {
      if (this.#watch === watch) this.#watch = undefined;
      watch.stop();
    };
  }

  /** While this window covers the screen the picture is of what lies beneath it; the returned function ends that. */
  async lookBeneath(cover: number): Promise<() => Promise<void>> {
    const hidden = this.#hidden;
    hidden.coverWindow = cover;
    await this.#watch?.lookBeneath(cover);
    return async () => {
      if (hidden.coverWindow !== cover) return;
      hidden.coverWindow = undefined;
      if (!this.#x.isGone) await this.#watch?.lookBeneath(undefined);
    };
  }

  answers = (): Promise<void> => this.#x.flush();
  captureAll = (): void => this.#watch?.captureAll();

  get isWallpaperHidden(): boolean {
    return this.#backdrop.isShown;
  }
  hideWallpaper = (isHidden: boolean): Promise<void> => (isHidden ? this.#backdrop.show() : this.#backdrop.hide());
}
