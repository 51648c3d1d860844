import type { CursorShape, Rect } from '@porch/screen';

/** One thing asked of the person at the desktop. Both answers are the same size, and neither is chosen beforehand. */
export interface Question {
  readonly title: string;
  readonly lines: readonly string[];
  readonly yes: string;
  readonly no: string;
}

export interface BannerWords {
  readonly who: string;
  readonly what: string;
}

export interface ScreenWatcher {
  /** Fresh pixels of some rectangles, 32-bit words 0xXXRRGGBB; all of the display in the first call. */
  onPixels(pieces: readonly { rect: Rect; pixels: Uint32Array }[], isWhole: boolean): void;
  onSize(width: number, height: number): void;
  onCursorShape(shape: CursorShape): void;
  onCursorPosition(x: number, y: number): void;
}

/** What Doorstep needs of a desktop. Adapters: real X11; others say what they cannot do. */
export interface Desktop {
  readonly name: string;
  size(): { width: number; height: number };
  /** Watches the screen until the returned function is called. Changes are gathered while `mayGrab` says no. */
  watchScreen(watcher: ScreenWatcher, mayGrab: () => boolean): Promise<() => void>;
  movePointer(x: number, y: number): void;
  button(button: 'left' | 'middle' | 'right', isDown: boolean): void;
  wheel(stepsX: number, stepsY: number): void;
  key(key: string, isDown: boolean): Promise<void>;
  type(text: string): Promise<void>;
  /** Lets go of every key and button that was pressed through us. */
  releaseAll(): void;
  /** The person at the desktop used their own mouse or keyboard. */
  onLocalInput(listener: () => void): () => void;
  /** True for yes, false for no; undefined when `signal` took the question away. */
  ask(question: Question, signal: AbortSignal): Promise<boolean | undefined>;
  /** Undefined takes the banner away. */
  showBanner(words: BannerWords | undefined): Promise<void>;
  onStop(listener: () => void): () => void;
  onGone(listener: (why: Error) => void): void;
  close(): Promise<void>;
}
