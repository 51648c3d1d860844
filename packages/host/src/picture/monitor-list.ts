import type { Rect } from '@porch/screen';
import { ALL_MONITORS, type DisplayRow } from '@porch/wire';
import type { Monitor } from './screen-source.ts';

/** Where displays lie on the screen, as they are numbered for viewers. */
export class MonitorList {
  readonly #screenSize: () => { readonly width: number; readonly height: number };
  #monitors: readonly Monitor[] = [];
  /** They lie elsewhere now, or are others. */
  onChanged: () => void = () => undefined;

  constructor(screenSize: () => { readonly width: number; readonly height: number }) {
    this.#screenSize = screenSize;
  }

  set(monitors: readonly Monitor[]): void {
    this.#monitors = monitors;
    this.onChanged();
  }

  get rows(): DisplayRow[] {
    return this.#monitors.map(({ name, rect }, display) => ({ display, name, ...rect }));
  }

  rectOf(display: number): Rect | undefined {
    if (display === ALL_MONITORS) return { x: 0, y: 0, ...this.#screenSize() };
    return this.#monitors[display]?.rect;
  }

  /** With its name; undefined while nobody looked yet, or where there is none. */
  at(display: number): Monitor | undefined {
    const rect = this.#monitors.length ? this.rectOf(display) : undefined;
    return rect && { name: this.#monitors[display]?.name ?? '', rect };
  }
}
