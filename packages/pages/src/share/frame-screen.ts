import type { Monitor, ScreenSource, ScreenWatcher } from '@porch/host';
import { PlaneWatch, type PlaneColours, type Rect } from '@porch/screen';

/** How often a frame that has to wait for the line tries again. */
const WAIT_MS = 8;

/** What a browser was allowed to capture, as a screen: the newest frame counts, those between are never looked at. */
export class FrameScreen implements ScreenSource {
  readonly isWallpaperHidden = false;
  readonly #name: string;
  readonly #onTrouble: (error: unknown) => void;
  #newest: VideoFrame | undefined;
  #isTaken = true;
  #isAllDue = false;
  #isBusy = false;
  #takenAtMs = 0;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #watch: { watcher: ScreenWatcher; mayGrab: () => boolean; leastGapMs: () => number } | undefined;
  #planes: PlaneWatch | undefined;
  #size = { width: 0, height: 0 };
  #whole = new Uint32Array(0);

  constructor(name: string, frames: ReadableStream<VideoFrame>, onTrouble: (error: unknown) => void) {
    this.#name = name;
    this.#onTrouble = onTrouble;
    this.#read(frames.getReader()).catch(onTrouble);
  }

  size = () => this.#size;

  watchScreen(watcher: ScreenWatcher, mayGrab: () => boolean, leastGapMs: () => number): Promise<() => void> {
    this.#watch = { watcher, mayGrab, leastGapMs };
    if (this.#size.width) watcher.onMonitors(this.#monitors);
    this.captureAll();
    return Promise.resolve(() => (this.#watch = undefined));
  }

  /** A browser tells each frame by itself; there is nobody else to ask. */
  answers(): Promise<void> {
    return Promise.resolve();
  }

  captureAll(): void {
    this.#isAllDue = true;
    this.#takeSoon(0);
  }

  hideWallpaper(isHidden: boolean): Promise<void> {
    return isHidden ? Promise.reject(new Error('A browser cannot hide the wallpaper')) : Promise.resolve();
  }

  get #monitors(): Monitor[] {
    return [{ name: this.#name, rect: { x: 0, y: 0, ...this.#size } }];
  }

  async #read(reader: ReadableStreamDefaultReader<VideoFrame>): Promise<void> {
    for (;;) {
      const { value, done } = await reader.read();
      if (done) break;
      this.#newest?.close();
      this.#newest = value;
      this.#isTaken = false;
      this.#takeSoon(0);
    }
  }

  #takeSoon(waitMs: number): void {
    this.#timer ??= setTimeout(() => {
      this.#timer = undefined;
      this.#take().catch(this.#onTrouble);
    }, waitMs);
  }

  async #take(): Promise<void> {
    const watch = this.#watch;
    const due = (this.#newest && !this.#isTaken) || this.#isAllDue;
    if (!watch || !this.#newest || !due || this.#isBusy) return;
    const waitMs = this.#takenAtMs + watch.leastGapMs() - performance.now();
    if (waitMs > 0 || !watch.mayGrab()) {
      this.#takeSoon(Math.max(WAIT_MS, waitMs));
      return;
    }
    // A copy, since the newest one may be closed while this one is read.
    const frame = this.#newest.clone();
    this.#isTaken = true;
    this.#isBusy = true;
    this.#takenAtMs = performance.now();
    try {
      await this.#tell(frame, watch.watcher);
    } finally {
      frame.close();
      this.#isBusy = false;
    }
    if (!this.#isTaken || this.#isAllDue) this.#takeSoon(0);
  }

  async #tell(frame: VideoFrame, watcher: ScreenWatcher): Promise<void> {
    const { width, height } = frame.visibleRect ?? { width: frame.codedWidth, height: frame.codedHeight };
    if (width !== this.#size.width || height !== this.#size.height) {
      this.#size = { width, height };
      this.#planes = undefined;
      this.#isAllDue = true;
      watcher.onMonitors(this.#monitors);
    }
    const isAll = this.#isAllDue;
    this.#isAllDue = false;
    const pieces =
      frame.format === 'I420' ? await this.#planesOf(frame, isAll) : await this.#wholeOf(frame, { ...this.#size });
    // It may have been taken back while the frame was copied.
    if (this.#watch?.watcher === watcher && pieces.length)
      watcher.onPixels(pieces.map((piece) => ({ ...piece, covered: [] })));
  }

  async #planesOf(frame: VideoFrame, isAll: boolean): Promise<{ rect: Rect; pixels: Uint32Array }[]> {
    const planes = (this.#planes ??= new PlaneWatch(this.#size.width, this.#size.height));
    await frame.copyTo(planes.bytes, { layout: [...planes.layout] });
    const { fullRange, matrix } = frame.colorSpace;
    const colours: PlaneColours = { isFullRange: fullRange ?? false, matrix };
    return planes.take(colours, isAll);
  }

  /** A capture in another form: the browser converts it, and what differs is found later. */
  async #wholeOf(frame: VideoFrame, { width, height }: { width: number; height: number }) {
    if (this.#whole.length !== width * height) this.#whole = new Uint32Array(width * height);
    await frame.copyTo(this.#whole, { format: 'BGRX' });
    return [{ rect: { x: 0, y: 0, width, height }, pixels: this.#whole }];
  }
}
