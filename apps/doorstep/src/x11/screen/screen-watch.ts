import type { ScreenWatcher } from '@porch/host';
import type { XEvent } from 'x11';
import type { HiddenWindows } from '../hiding/hidden-windows.ts';
import { hasCompositor } from '../server/compositor.ts';
import type { InkPace } from '../server/ink-pace.ts';
import type { XConnection } from '../server/connection.ts';
import type { BasicExtensions, ScreenExtensions } from '../server/extensions.ts';
import { ROOT_EVENTS } from '../server/root-events.ts';
import { selectRawEvents } from '../server/input-events.ts';
import { Beneath } from './beneath.ts';
import { Cursor } from './cursor.ts';
import { Grabber } from './grabber.ts';
import { followMonitors } from './monitors.ts';

/** Grabs are at least this far apart: as fast as screens are drawn, and no faster. */
const GRAB_MS = 12;
const POINTER_MS = 12;
/** While nobody may grab, it is looked at again this often. */
const WAIT_MS = 8;

export interface WatchParts {
  readonly x: XConnection;
  readonly extensions: ScreenExtensions & BasicExtensions;
  readonly hidden: HiddenWindows;
  readonly watcher: ScreenWatcher;
  mayGrab(): boolean;
  leastGapMs(): number;
  readonly pace: InkPace;
}

/** Follows the screen. While nobody may grab, changes gather in the server and cost nothing. */
export class ScreenWatch {
  readonly #parts: WatchParts;
  readonly #grabber: Grabber;
  readonly #cursor: Cursor;
  readonly #listener = (event: XEvent): void => this.#follow(event);
  #stopMonitors: () => void = () => undefined;
  #isStopped = false;
  #isBusy = false;
  #isWholeDue = true;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #pointerTimer: ReturnType<typeof setTimeout> | undefined;
  #grabbedAtMs = -Infinity;

  private constructor(parts: WatchParts, grabber: Grabber) {
    this.#parts = parts;
    this.#grabber = grabber;
    const { x, extensions, watcher } = parts;
    this.#cursor = new Cursor(x, extensions, {
      ...watcher,
      onCursorShape: (shape) => this.#isStopped || watcher.onCursorShape(shape),
      onCursorPosition: (atX, atY) => this.#isStopped || watcher.onCursorPosition(atX, atY),
    });
  }

  static async start(parts: WatchParts): Promise<ScreenWatch> {
    const { x, extensions, hidden, watcher } = parts;
    const watch = new ScreenWatch(parts, await Grabber.open(x, extensions, hidden));
    hidden.onCoverChanged = () => watch.captureAll();
    hidden.onOneChanged = () => watch.lookBeneath(hidden.coverWindow);
    x.client.on('event', watch.#listener);
    x.client.ChangeWindowAttributes(x.root, { eventMask: ROOT_EVENTS });
    selectRawEvents(x, extensions.xinput);
    watch.#stopMonitors = await followMonitors(x, extensions, (monitors) => {
      if (watch.#isStopped) return;
      watcher.onMonitors(monitors);
      watch.captureAll();
    });
    await watch.#cursor.tellShape();
    await watch.#cursor.tellPosition();
    watch.#grabSoon();
    return watch;
  }

  /** From now on the picture is of what lies beneath this window; of the screen as it is without one. */
  async lookBeneath(cover: number | undefined): Promise<void> {
    const { x, extensions, hidden } = this.#parts;
    hidden.coverWindow = cover;
    const isOne = hidden.shown.what !== 'everything';
    // Where another program puts the screen together, what of one window shimmers through another is not kept apart on it.
    const isNeeded = cover !== undefined || (isOne && (await hasCompositor(x)));
    const opened =
      isNeeded && !this.#isStopped
        ? await Beneath.open({
            x,
            extensions,
            cover,
            size: this.#grabber.size,
            hasPlainGround: isOne,
            isHidden: (window) => hidden.hides(window),
            onChanged: () => this.#grabSoon(),
          })
        : undefined;
    const before = this.#grabber.beneath;
    this.#grabber.beneath = opened;
    before?.close();
    this.captureAll();
  }

  /** Tells everything once more, soon. */
  captureAll(): void {
    this.#isWholeDue = true;
    this.#grabSoon();
  }

  stop(): void {
    this.#isStopped = true;
    this.#stopMonitors();
    clearTimeout(this.#timer);
    clearTimeout(this.#pointerTimer);
    this.#parts.x.client.removeListener('event', this.#listener);
    this.#grabber.beneath?.close();
    this.#grabber.close();
  }

  #follow(event: XEvent): void {
    const { root } = this.#parts.x;
    if (event.name === 'DamageNotify') {
      if (event['damage'] === this.#grabber.damageId) this.#grabSoon();
    } else if (event.name === 'CursorNotify') this.#inBackground(this.#cursor.tellShape());
    else if (event.name === 'ConfigureNotify' && event['wid1'] === root) this.#inBackground(this.#takeSize(event));
    else if (event.name === 'XIRawKeyPress' || event.name === 'XIRawButtonPress') this.#followWork();
    else if (event.name === 'XIRawMotion')
      this.#pointerTimer ??= setTimeout(() => {
        this.#pointerTimer = undefined;
        this.#inBackground(this.#cursor.tellPosition());
      }, POINTER_MS);
  }

  /** Somebody works: a picture that was put off for a pen is not put off any longer. */
  #followWork(): void {
    const wasPutOff = this.#parts.pace.gapMs(performance.now()) > 0;
    this.#parts.pace.worked(performance.now());
    if (!wasPutOff || !this.#timer) return;
    clearTimeout(this.#timer);
    this.#timer = undefined;
    this.#grabSoon();
  }

  async #takeSize({ width, height }: XEvent): Promise<void> {
    if (width === undefined || height === undefined) return;
    if (!(await this.#grabber.setSize({ width, height }))) return;
    // What is put together has a size of its own.
    if (this.#grabber.beneath) await this.lookBeneath(this.#parts.hidden.coverWindow);
    else this.captureAll();
  }

  #grabSoon(leastMs = 0): void {
    if (this.#isStopped || this.#timer) return;
    const gapMs = Math.max(GRAB_MS, this.#parts.leastGapMs(), this.#parts.pace.gapMs(performance.now()));
    const waitMs = Math.max(leastMs, this.#grabbedAtMs + gapMs - performance.now());
    // Nothing was grabbed for long: a key was pressed, and somebody waits to see it.
    if (waitMs <= 0 && !this.#isBusy && this.#parts.mayGrab()) {
      this.#inBackground(this.#grab());
      return;
    }
    this.#timer = setTimeout(
      () => {
        this.#timer = undefined;
        if (this.#isBusy || !this.#parts.mayGrab()) this.#grabSoon(WAIT_MS);
        else this.#inBackground(this.#grab());
      },
      Math.max(1, waitMs),
    );
  }

  async #grab(): Promise<void> {
    if (this.#isStopped) return;
    this.#isBusy = true;
    this.#grabbedAtMs = performance.now();
    try {
      const isWhole = this.#isWholeDue;
      this.#isWholeDue = false;
      const pieces = await this.#grabber.grab(isWhole);
      if (!this.#isStopped && pieces.length) this.#parts.watcher.onPixels(pieces);
    } finally {
      this.#isBusy = false;
    }
  }

  #inBackground(work: Promise<void>): void {
    work.catch((error: unknown) => {
      // A lost server is told through `onGone`; a region of a display that has just shrunk is asked for again.
      if (this.#parts.x.isGone || this.#isStopped) return;
      this.#isWholeDue = true;
      if (!(error instanceof Error && /Bad/.test(error.message))) throw error;
      this.#grabSoon();
    });
  }
}
