import type { ScreenWatcher } from '@porch/host';
import type { Answer, BannerWords, ProgramWindows, Question } from '@porch/host';
import type { Desktop } from '../desktop/desktop.ts';
import { Backdrop } from './backdrop.ts';
import { HiddenWindows } from './hidden-windows.ts';
import { Injector, type PressGuard } from './injector.ts';
import { rawMask, watchScreen } from './screen-watch.ts';
import { Banner } from './banner.ts';
import { askOnScreen, readKeysyms, syntheticDevices } from './question-window.ts';
import { loadExtensions, XConnection, type XExtensions } from './x-connection.ts';

/** A hand that trembles or a table that shakes is not a person taking over: this many pixels within the window are. */
const MOTION_PX = 6;
const MOTION_WINDOW_MS = 400;
/** Keysyms of the letters, and the modifier bits of the X11 protocol. */
const [KEY_S, KEY_P, KEY_T] = [0x73, 0x70, 0x74];
const CONTROL_AND_ALT = 4 | 8;

/** A real X11 desktop. */
export class X11Desktop implements Desktop {
  readonly name: string;
  readonly #x: XConnection;
  readonly #extensions: XExtensions;
  readonly #injector: Injector;
  readonly #banner: Banner;
  readonly #localListeners = new Set<() => void>();
  readonly #stopListeners = new Set<() => void>();
  readonly #hideListeners = new Set<() => void>();
  readonly #privateListeners = new Set<() => void>();
  readonly #takeBackListeners = new Set<() => void>();
  readonly #backdrop: Backdrop;
  readonly #hidden: HiddenWindows;
  #size: { width: number; height: number };
  #captureAll: () => void = () => undefined;

  private constructor(
    name: string,
    x: XConnection,
    extensions: XExtensions,
    injector: Injector,
    size: { width: number; height: number },
  ) {
    this.name = name;
    this.#x = x;
    this.#extensions = extensions;
    this.#injector = injector;
    this.#size = size;
    this.#hidden = new HiddenWindows(x, extensions);
    this.#backdrop = new Backdrop(x, extensions.shape);
    this.#banner = new Banner(x, extensions.shape, {
      onStop: () => this.#stopListeners.forEach((listener) => listener()),
      onHide: () => this.#hideListeners.forEach((listener) => listener()),
      onPrivate: () => this.#privateListeners.forEach((listener) => listener()),
    });
  }

  static async open(display: string, onError: (error: Error) => void, guard: PressGuard): Promise<X11Desktop> {
    const x = await XConnection.open(display, onError);
    const extensions = await loadExtensions(x);
    const injector = await Injector.create(x, extensions.xtest, guard);
    const desktop = new X11Desktop(display, x, extensions, injector, await x.size());
    await desktop.#followLocalInput();
    return desktop;
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
    const watch = await watchScreen(
      this.#x,
      this.#extensions,
      { ...watcher, onMonitors },
      mayGrab,
      leastGapMs,
      this.#hidden,
    );
    this.#captureAll = watch.captureAll;
    return () => {
      this.#captureAll = () => undefined;
      watch.stop();
    };
  }

  captureAll(): void {
    this.#captureAll();
  }

  hideTitled(words: string): Promise<number> {
    return this.#hidden.hideTitled(words);
  }

  listPrograms(): Promise<ProgramWindows[]> {
    return this.#hidden.listPrograms();
  }
  setHidden(programs: readonly number[]): Promise<void> {
    return this.#hidden.setHidden(programs);
  }

  get isWallpaperHidden(): boolean {
    return this.#backdrop.isShown;
  }

  hideWallpaper(isHidden: boolean): Promise<void> {
    return isHidden ? this.#backdrop.show() : this.#backdrop.hide();
  }

  movePointer(x: number, y: number): void {
    this.#injector.move(x, y);
  }
  button(button: 'left' | 'middle' | 'right', isDown: boolean): void {
    this.#injector.button(button, isDown);
  }
  wheel(stepsX: number, stepsY: number): void {
    this.#injector.wheel(stepsX, stepsY);
  }
  key(key: string, isDown: boolean, may: () => boolean): Promise<void> {
    return this.#injector.key(key, isDown, may);
  }
  type(text: string, may: () => boolean): Promise<number> {
    return this.#injector.type(text, may);
  }
  answers(): Promise<void> {
    return this.#x.flush();
  }
  releaseAll(): void {
    this.#injector.releaseAll();
  }

  onLocalInput(listener: () => void): () => void {
    this.#localListeners.add(listener);
    return () => this.#localListeners.delete(listener);
  }
  onStop(listener: () => void): () => void {
    this.#stopListeners.add(listener);
    return () => this.#stopListeners.delete(listener);
  }
  onHideWanted(listener: () => void): () => void {
    this.#hideListeners.add(listener);
    return () => this.#hideListeners.delete(listener);
  }
  onPrivateWanted(listener: () => void): () => void {
    this.#privateListeners.add(listener);
    return () => this.#privateListeners.delete(listener);
  }
  onTakeBackWanted(listener: () => void): () => void {
    this.#takeBackListeners.add(listener);
    return () => this.#takeBackListeners.delete(listener);
  }
  onGone(listener: (why: Error) => void): void {
    this.#x.onGone(listener);
  }

  ask(question: Question, signal: AbortSignal): Promise<Answer | undefined> {
    const put = () => askOnScreen(this.#x, this.#extensions.xinput, question, signal);
    return question.isSecret ? this.#hidden.whileOwnIsHidden(put) : put();
  }
  async showBanner(words: BannerWords | undefined): Promise<void> {
    if (words) await this.#banner.show(words);
    else this.#banner.hide();
  }

  async close(): Promise<void> {
    this.#banner.hide();
    await this.#injector.close();
    this.#x.close();
  }

  /** Control and Alt with a letter, on a real keyboard, whatever program has it: nobody should have to find a button. */
  #followKey(keysym: number): void {
    const listeners = {
      [KEY_S]: this.#stopListeners,
      [KEY_P]: this.#privateListeners,
      [KEY_T]: this.#takeBackListeners,
    }[keysym];
    if (!listeners) return;
    this.#x
      .ask<{ keyMask: number }>((cb) => this.#x.client.QueryPointer(this.#x.root, cb))
      .then(({ keyMask }) => {
        if ((keyMask & CONTROL_AND_ALT) === CONTROL_AND_ALT) listeners.forEach((listener) => listener());
      })
      .catch(() => undefined); // The server went; whoever follows it knows.
  }

  async #followLocalInput(): Promise<void> {
    const synthetic = await syntheticDevices(this.#x, this.#extensions.xinput);
    const keysyms = await readKeysyms(this.#x);
    let movedPx = 0;
    let sinceMs = 0;
    this.#x.client.on('event', (event) => {
      if (!event.name?.startsWith('XIRaw') || event.sourceId === undefined || synthetic.has(event.sourceId)) return;
      if (event.name === 'XIRawMotion') {
        const nowMs = performance.now();
        if (nowMs - sinceMs > MOTION_WINDOW_MS) {
          movedPx = 0;
          sinceMs = nowMs;
        }
        movedPx += Object.values(event.rawValuators ?? {}).reduce((sum, v) => sum + Math.abs(v), 0);
        if (movedPx < MOTION_PX) return;
      }
      if (event.name === 'XIRawKeyPress') this.#followKey(keysyms.get(event.detail ?? 0) ?? 0);
      this.#localListeners.forEach((listener) => listener());
    });
    this.#extensions.xinput.XISelectEvents(this.#x.root, [{ deviceId: 1, mask: rawMask(this.#extensions) }]);
  }
}
