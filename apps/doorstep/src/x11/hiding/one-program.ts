import type { Rect } from '@porch/screen';
import x11, { type XEvent } from 'x11';
import type { XConnection } from '../server/connection.ts';
import { allBut, restOf, seenOf, type Layer } from './seen-of-one.ts';
import { drawnOf, isOfNoneBut, type TopWindow } from './top-window.ts';

export interface OneProgramParts {
  readonly x: XConnection;
  readonly program: number;
  readonly title: string;
  /** From the lowest to the highest. */
  windows(): readonly TopWindow[];
  /** Neither shown nor over anything. */
  isLeftOut(window: TopWindow): boolean;
  hidesWhole(window: TopWindow): boolean;
  /** May still show what lay there. */
  left(area: Rect): void;
  closed(): void;
}

/**
 * The program that is shown alone, as long as one of its windows is there. The server gives the number of a program that
 * ended to the next one that comes, so once its last window went nothing is shown any longer, whatever appears.
 */
export class OneProgram {
  readonly #parts: OneProgramParts;
  readonly #watched = new Set<number>();
  #isClosed = false;
  /** What is to be seen of it, and what else there is; the latter unknown when windows changed since. */
  #seen: readonly Rect[];
  #unseen: readonly Rect[] | undefined;

  constructor(parts: OneProgramParts) {
    this.#parts = parts;
    for (const window of parts.windows()) this.#watchAll(window);
    this.#closeIfGone();
    // What is to be seen of it now was to be seen before.
    this.#seen = seenOf(this.#layers(true));
  }

  get program(): number {
    return this.#parts.program;
  }
  get title(): string {
    return this.#parts.title;
  }
  get isClosed(): boolean {
    return this.#isClosed;
  }
  /** All of the screen that is not of this program, or lies beneath something that is not. */
  get unseen(): readonly Rect[] {
    return (this.#unseen ??= allBut(seenOf(this.#layers(false))));
  }

  isOther(window: TopWindow): boolean {
    const { isLeftOut, program } = this.#parts;
    return !isLeftOut(window) && (this.#isClosed || !isOfNoneBut(window, program));
  }

  hear(event: XEvent): void {
    if (event.name === 'DestroyNotify' && event.wid !== undefined) this.#forget(event.wid);
  }

  /** Windows lie otherwise now. What of it was not to be seen a moment ago may still show what lay there. */
  changed(window?: TopWindow): void {
    if (window) this.#watchAll(window);
    const seen = seenOf(this.#layers(true));
    for (const rect of restOf(seen, this.#seen)) this.#parts.left(rect);
    this.#seen = seen;
    this.#unseen = undefined;
  }

  /** `isAtMost`: of windows of which nobody knows yet what they draw, all of it. */
  #layers(isAtMost: boolean): Layer[] {
    const { windows, isLeftOut, hidesWhole } = this.#parts;
    return windows()
      .filter((window) => window.isMapped && !isLeftOut(window))
      .map((window) => {
        const isShown = !this.isOther(window) && !hidesWhole(window);
        const isWhole = isShown ? isAtMost && window.drawn === 'unknown' : window.drawn !== 'nothing';
        return { isShown, rects: isWhole ? [window.rect] : isShown ? drawnOf(window) : [] };
      });
  }

  #watchAll({ id, program, holds }: TopWindow): void {
    if (program === this.program) this.#watch(id);
    for (const [held, whose] of holds) if (whose === this.program) this.#watch(held);
  }

  /** That it went is told by itself, also from within a frame. */
  #watch(window: number): void {
    if (this.#isClosed || this.#watched.has(window)) return;
    this.#watched.add(window);
    const { client } = this.#parts.x;
    client.ChangeWindowAttributes(window, { eventMask: x11.eventMask['StructureNotify'] ?? 0 });
    this.#parts.x
      .ask<unknown>((cb) =>
        client.GetWindowAttributes(window, (error, answer) => {
          // It went before it could be watched.
          if (error) this.#forget(window);
          return cb(error, answer);
        }),
      )
      .catch(() => undefined); // Said above; or the server went, and whoever follows it knows.
  }

  #forget(window: number): void {
    if (this.#watched.delete(window)) this.#closeIfGone();
  }

  /** There may be none left by the time it is chosen. */
  #closeIfGone(): void {
    if (this.#watched.size || this.#isClosed) return;
    this.#isClosed = true;
    this.#unseen = undefined;
    this.#parts.closed();
  }
}
