import { setTimeout as sleep } from 'node:timers/promises';
import type { ShownScreenWords } from '@porch/host';
import type { Rect } from '@porch/screen';
import x11, { type XEvent } from 'x11';
import { contains, type Box } from '../server/box.ts';
import { XConnection } from '../server/connection.ts';
import { readKeysyms } from '../server/input-events.ts';
import { paint, type Painting } from '../server/painting.ts';
import { boundsOf, without } from '../server/rects.ts';
import { renderSvg } from '../server/text-picture.ts';
import type { HiddenWindows } from '../hiding/hidden-windows.ts';
import { drawHeader, drawNote, HEADER_PX, layoutHeader, NOTE_PX, type HeaderLayout } from './frame.ts';
import { setManagerHints } from './manager-hints.ts';
import { drawPart } from './shrink.ts';
import { Looking } from './looking.ts';
import { arrows, ENTER, ESCAPE, SPACE, wheel } from './looking-keys.ts';
import { OnceMore } from './once-more.ts';
import { inside, shownPart, type View } from './view.ts';
import { LEAST, placeOf, sizeAtFirst, sizeFor, type Standing } from './window-size.ts';

const GROUND = 0xe9e4d8;
/** Painted in one go: a few milliseconds of work, so that nothing else here waits for longer. */
const STRIP_PIXELS = 200_000;
/** More places than this that changed are painted as what bounds them. */
const MOST_DIRTY = 24;
/** What painting took, so many times is rested: it takes half a core at most. */
const REST_SHARE = 1;
const ANY_EVENT =
  (x11.eventMask['Exposure'] ?? 0) |
  (x11.eventMask['StructureNotify'] ?? 0) |
  (x11.eventMask['ButtonPress'] ?? 0) |
  (x11.eventMask['ButtonRelease'] ?? 0) |
  (x11.eventMask['Button1Motion'] ?? 0) |
  (x11.eventMask['KeyPress'] ?? 0);
interface On {
  closed(): void;
  failed(error: unknown): void;
}

/** What is shown in it: red, green, blue and alpha of each pixel, once its size is known. */
export interface ShownPicture {
  readonly rgba: Uint8ClampedArray;
  readonly grid: { readonly width: number; readonly height: number } | undefined;
}
export type FrameWords = Pick<ShownScreenWords, 'title' | 'waiting' | 'close' | 'original' | 'fit'>;

interface WindowParts {
  readonly words: FrameWords;
  readonly on: On;
  readonly keysyms: ReadonlyMap<number, number>;
  /** Lets it be in pictures again, once it is gone. */
  readonly showAgain: () => Promise<void>;
  readonly display: { readonly width: number; readonly height: number };
  readonly standing: Standing;
}

/** A window of the desktop like any other, with what somebody shows in it. It is in no picture of this desktop. */
export class ShownWindow {
  readonly #x: XConnection;
  readonly #window: number;
  readonly #gc: number;
  readonly #parts: WindowParts;
  #size: { width: number; height: number };
  #header: { readonly layout: HeaderLayout; readonly picture: Painting } | undefined;
  #note: Painting | undefined;
  /** What stands beneath the picture, drawn or about to be. */
  #noteWords = '';
  /** One drawing at a time: one that began earlier never comes last. */
  readonly #frame = new OnceMore(() => this.#drawFrame());
  #picture: ShownPicture | undefined;
  readonly #looking = new Looking();
  /** Its size was chosen once, for the first picture that came; from then on it is the person's. */
  #isFitted = false;
  #dirty: Rect[] = [];
  #isPainting = false;
  #isClosed = false;

  private constructor(x: XConnection, window: number, parts: WindowParts, size: { width: number; height: number }) {
    this.#x = x;
    this.#window = window;
    this.#parts = parts;
    this.#size = size;
    this.#gc = x.client.AllocID();
    x.client.CreateGC(this.#gc, window, {});
    x.client.on('event', (event) => this.#follow(event));
    x.onGone((why) => {
      if (!this.#isClosed) this.#parts.on.failed(why);
    });
  }

  static async open(
    display: string,
    hidden: HiddenWindows,
    words: FrameWords,
    on: On,
    standing: Standing,
  ): Promise<ShownWindow> {
    const x = await XConnection.open(display, on.failed);
    try {
      const screen = await x.size();
      const size = sizeAtFirst(screen, standing);
      const window = x.client.AllocID();
      const at = placeOf(size, screen, standing);
      x.client.CreateWindow(window, x.root, at.x, at.y, size.width, size.height, 0, 0, 0, 0, {
        backgroundPixel: GROUND,
        eventMask: ANY_EVENT,
      });
      await setManagerHints(x, window, { title: words.title, least: LEAST, at });
      const keysyms = await readKeysyms(x);
      // Before anything of it can be seen.
      const showAgain = await hidden.keepOut(window);
      const shown = new ShownWindow(x, window, { words, on, keysyms, showAgain, display: screen, standing }, size);
      x.client.MapWindow(window);
      shown.#noteWords = words.waiting;
      shown.#inTurn(shown.#frame.run());
      return shown;
    } catch (error) {
      x.close();
      throw error;
    }
  }

  /** Another picture, or one of another size. */
  show(picture: ShownPicture): void {
    this.#picture = picture;
    if (picture.grid && !this.#isFitted) {
      this.#isFitted = true;
      const { display, standing } = this.#parts;
      const size = sizeFor(picture.grid, display, standing);
      const at = standing.corner === 'below' ? placeOf(size, display, standing) : {};
      this.#x.client.ConfigureWindow(this.#window, { ...at, ...size });
    }
    if (picture.grid && this.#noteWords === this.#parts.words.waiting) this.#noteWords = '';
    this.#inTurn(this.#frame.run());
  }

  /** These parts of the picture changed. */
  changed(rects: readonly Rect[]): void {
    const view = this.#view;
    if (!view) return;
    for (const rect of rects) {
      const part = shownPart(view, rect);
      if (part) this.#dirty.push(part);
    }
    if (this.#dirty.length > MOST_DIRTY) this.#dirty = [boundsOf(this.#dirty)];
    this.#paintSoon();
  }

  /** Words beneath the picture; none when empty. */
  say(words: string): void {
    if (words === this.#noteWords || (!words && !this.#picture?.grid)) return;
    this.#noteWords = words;
    this.#inTurn(this.#frame.run());
  }

  close(): void {
    if (this.#isClosed) return;
    this.#isClosed = true;
    this.#picture = undefined;
    const { client } = this.#x;
    if (!this.#x.isGone) client.DestroyWindow(this.#window);
    // Gone from the screen first: what is in the picture again must not show it for a moment.
    this.#x
      .flush()
      .then(
        () => this.#parts.showAgain(),
        () => this.#parts.showAgain(),
      )
      .catch(this.#parts.on.failed)
      .finally(() => this.#x.close());
  }

  get #room(): Box {
    const note = this.#note ? NOTE_PX : 0;
    return {
      x: 0,
      y: HEADER_PX,
      width: this.#size.width,
      height: Math.max(1, this.#size.height - HEADER_PX - note),
    };
  }
  get #view(): View | undefined {
    const grid = this.#picture?.grid;
    return grid && this.#looking.view(grid, this.#room);
  }

  async #drawFrame(): Promise<void> {
    const layout = layoutHeader(this.#size.width);
    const { title, close, fit, original } = this.#parts.words;
    const words = this.#noteWords;
    const size = this.#looking.isOriginal ? fit : original;
    this.#header = { layout, picture: await renderSvg(drawHeader({ title, close, size }, layout)) };
    this.#note = words ? await renderSvg(drawNote(words, layout.width)) : undefined;
    this.#paintAll();
  }

  #paintAll(): void {
    if (this.#isClosed || this.#x.isGone) return;
    const room = this.#room;
    const { client } = this.#x;
    // The ground beside the picture, without a flash beneath it.
    const view = this.#view;
    for (const rect of view ? without(room, view.box) : [room])
      client.ClearArea(this.#window, rect.x, rect.y, rect.width, rect.height, 0);
    if (this.#header) paint(this.#x, this.#window, this.#gc, this.#header.picture);
    if (this.#note) paint(this.#x, this.#window, this.#gc, this.#note, { x: 0, y: room.y + room.height });
    if (!view) return;
    this.#dirty = [{ ...view.box, x: 0, y: 0 }];
    this.#paintSoon();
  }

  #paintSoon(): void {
    if (this.#isPainting) return;
    this.#isPainting = true;
    this.#inTurn(this.#paint());
  }

  /**
   * Strip by strip, each when the server has the one before: one that is slow is not flooded. What took long is followed
   * by a rest, in which what changes gathers: a picture that all changes all the time leaves this computer room for the
   * rest of its work.
   */
  async #paint(): Promise<void> {
    let drawnMs = 0;
    try {
      for (;;) {
        if (!this.#dirty.length && drawnMs > 0) {
          await sleep(drawnMs * REST_SHARE);
          drawnMs = 0;
        }
        const [part, ...rest] = this.#dirty;
        const [view, picture] = [this.#view, this.#picture];
        if (!part || !view || !picture?.grid || this.#isClosed) return;
        const rows = Math.max(1, Math.floor(STRIP_PIXELS / part.width));
        const strip = { ...part, height: Math.min(rows, part.height) };
        const left = { ...part, y: part.y + strip.height, height: part.height - strip.height };
        this.#dirty = left.height > 0 ? [left, ...rest] : rest;
        // What was found before it became smaller may lie outside by now.
        const seen = inside(strip, view.box);
        if (seen) {
          const beganAtMs = performance.now();
          const drawn = drawPart(picture.rgba, picture.grid, view, seen);
          drawnMs += performance.now() - beganAtMs;
          paint(this.#x, this.#window, this.#gc, drawn, { x: view.box.x + seen.x, y: view.box.y + seen.y });
        }
        await this.#x.flush();
      }
    } finally {
      this.#isPainting = false;
      this.#dirty = [];
    }
  }

  /** A failure of the server is its going, which is heard of elsewhere. */
  #inTurn(work: Promise<void>): void {
    work.catch((error: unknown) => {
      if (!this.#isClosed && !this.#x.isGone) this.#parts.on.failed(error);
    });
  }

  #follow(event: XEvent): void {
    if (this.#isClosed || event.wid !== this.#window) return;
    const [x, y] = [event.x ?? -1, event.y ?? -1];
    const grid = this.#picture?.grid;
    switch (event.name) {
      case 'Expose':
        return this.#paintAll();
      case 'ConfigureNotify':
        if (event.width === this.#size.width && event.height === this.#size.height) return;
        this.#size = { width: event.width ?? 1, height: event.height ?? 1 };
        return this.#inTurn(this.#frame.run());
      // The only protocol of window managers that was asked for is to be told to close; or another program did it.
      case 'ClientMessage':
      case 'DestroyNotify':
        return this.#parts.on.closed();
      case 'ButtonPress':
        return this.#press(event.keycode ?? 0, x, y);
      case 'MotionNotify':
        if (grid && this.#looking.drag(grid, this.#room, { x, y })) this.#paintAll();
        return;
      case 'ButtonRelease':
        if (event.keycode === 1 && grid && this.#looking.release(grid, this.#room, { x, y }))
          this.#inTurn(this.#frame.run());
        return;
      case 'KeyPress':
        return this.#key(this.#parts.keysyms.get(event.keycode ?? 0) ?? 0);
    }
  }

  #press(button: number, x: number, y: number): void {
    const layout = this.#header?.layout;
    const step = wheel[button];
    if (step) this.#scroll(step);
    else if (button !== 1 || !layout) return;
    else if (contains(layout.close, x, y)) this.#parts.on.closed();
    else if (contains(layout.size, x, y)) this.#toggle();
    else if (y >= HEADER_PX) this.#looking.press({ x, y });
  }
  #key(keysym: number): void {
    const step = arrows[keysym];
    if (keysym === ESCAPE) this.#parts.on.closed();
    else if (keysym === SPACE || keysym === ENTER) this.#toggle();
    else if (step) this.#scroll(step);
  }
  #toggle(): void {
    const grid = this.#picture?.grid;
    if (!grid) return;
    this.#looking.toggle(grid, this.#room);
    this.#inTurn(this.#frame.run());
  }
  #scroll(step: readonly [number, number]): void {
    const grid = this.#picture?.grid;
    if (!grid) return;
    if (this.#looking.scroll(grid, this.#room, step)) this.#paintAll();
  }
}
