import type { CursorShape, Rect } from '@porch/screen';

/** A part of a desktop that a person calls a monitor. */
export interface Monitor {
  readonly name: string;
  readonly rect: Rect;
}

export interface CapturedPiece {
  readonly rect: Rect;
  readonly pixels: Uint32Array;
  /** What of the desktop must not be seen: it is covered before anything else is done with these pixels. */
  readonly covered: readonly Rect[];
}

export interface ScreenWatcher {
  /** Fresh pixels of some rectangles of the desktop, 32-bit words 0xXXRRGGBB; all of it in the first call. */
  onPixels(pieces: readonly CapturedPiece[]): void;
  /** The monitors, first and whenever one came, went or changed. Never none. */
  onMonitors(monitors: readonly Monitor[]): void;
  onCursorShape(shape: CursorShape): void;
  onCursorPosition(x: number, y: number): void;
}

/** Whatever a picture is taken of: a desktop, or what a browser was allowed to capture. */
export interface ScreenSource {
  size(): { width: number; height: number };
  /**
   * Watches the screen until the returned function is called. Changes are gathered while `mayGrab` says no, and for
   * `leastGapMs` after each time they were told.
   */
  watchScreen(watcher: ScreenWatcher, mayGrab: () => boolean, leastGapMs: () => number): Promise<() => void>;
  /** Resolves once the screen itself has answered: what was told of it until then was true. Never, while it stands still. */
  answers(): Promise<void>;
  /** Tells everything once more, soon. */
  captureAll(): void;
  /** Covers what lies behind all windows with one colour. It comes back by itself when this program ends. */
  hideWallpaper(isHidden: boolean): Promise<void>;
  readonly isWallpaperHidden: boolean;
}
