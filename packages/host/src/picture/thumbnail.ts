import type { Clock } from '@porch/wire';
import { Kernel, type Rect } from '@porch/screen';
import { COVER_COLOUR, type DisplaySender } from './display-sender.ts';

const FACTOR = 8;
const EVERY_MS = 1_000;

/** A small copy of one display, renewed once a second while it changes. */
export class Thumbnail {
  readonly #sender: DisplaySender;
  readonly #rectOf: () => Rect | undefined;
  readonly #endRenewing: () => void;
  #kernel: Kernel | undefined;
  #large = 0;
  #small = 0;
  #size = { width: 0, height: 0 };
  #isChanged = false;

  constructor(sender: DisplaySender, rectOf: () => Rect | undefined, clock: Clock) {
    this.#sender = sender;
    this.#rectOf = rectOf;
    this.#endRenewing = clock.every(EVERY_MS, () => this.#renew());
  }

  put(rect: Rect, pixels: Uint32Array, covered: readonly Rect[]): void {
    const monitor = this.#rectOf();
    if (!monitor) return;
    this.#fit(monitor);
    const kernel = this.#kernel;
    if (!kernel) return;
    const x = Math.max(rect.x, monitor.x);
    const y = Math.max(rect.y, monitor.y);
    const right = Math.min(rect.x + rect.width, monitor.x + monitor.width);
    const bottom = Math.min(rect.y + rect.height, monitor.y + monitor.height);
    for (let row = y; row < bottom && x < right; row++) {
      const from = (row - rect.y) * rect.width + x - rect.x;
      const to = (this.#large >> 2) + (row - monitor.y) * monitor.width + x - monitor.x;
      kernel.words.set(pixels.subarray(from, from + right - x), to);
    }
    for (const hidden of covered) {
      const left = Math.max(0, hidden.x - monitor.x);
      const top = Math.max(0, hidden.y - monitor.y);
      const w = Math.min(hidden.x + hidden.width - monitor.x, monitor.width) - left;
      const h = Math.min(hidden.y + hidden.height - monitor.y, monitor.height) - top;
      if (w > 0 && h > 0) kernel.call.fillRect(this.#large, monitor.width, left, top, w, h, COVER_COLOUR);
    }
    this.#isChanged = true;
  }

  close(): void {
    this.#endRenewing();
  }

  #fit({ width, height }: Rect): void {
    if (this.#kernel && width === this.#size.width && height === this.#size.height) return;
    this.#size = { width, height };
    this.#kernel = new Kernel(width * height * 4 * 2, 'wasm');
    this.#large = this.#kernel.take(width * height * 4);
    this.#small = this.#kernel.take(Math.ceil((width * height * 4) / FACTOR));
    this.#sender.setSize(Math.max(1, Math.floor(width / FACTOR)), Math.max(1, Math.floor(height / FACTOR)));
  }

  #renew(): void {
    if (!this.#isChanged || !this.#kernel) return;
    this.#isChanged = false;
    const { width, height } = this.#size;
    const [w, h] = [Math.floor(width / FACTOR), Math.floor(height / FACTOR)];
    this.#kernel.call.shrink(this.#large, width, height, this.#small, FACTOR);
    this.#sender.put(
      { x: 0, y: 0, width: w, height: h },
      this.#kernel.words.subarray(this.#small >> 2, (this.#small >> 2) + w * h),
    );
    this.#sender.pump(undefined);
  }
}
