import { consentHolderOf } from '@porch/core';
import { drawingChannel, type DrawingMessage, type Mark } from '@porch/wire';
import { Listeners } from '../listeners.ts';
import type { LiveConnection } from '../live/live-connection.ts';
import { POINT_MS, withMark, withoutMark, type ShownMark } from '../marks.ts';
import { SealedLine } from '../sealed-line.ts';

/** The technician's side of pointing and drawing: on the picture here, and on the customer's copy of it. */
export class TechnicianDrawing {
  readonly listeners = new Listeners<{ marks: readonly ShownMark[] }>();
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<DrawingMessage>;
  readonly #fading = new Set<() => void>();
  #marks: readonly ShownMark[] = [];
  #lastMark = 0;

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#line = new SealedLine(connection, drawingChannel);
  }

  mark(mark: Mark): void {
    const id = ++this.#lastMark;
    this.#show(withMark(this.#marks, { id, seat: this.#connection.seat, mark }));
    if (mark.kind === 'point') {
      const endFading = this.#connection.clock.after(POINT_MS, () => {
        this.#fading.delete(endFading);
        this.#show(this.#marks.filter((m) => m.id !== id));
      });
      this.#fading.add(endFading);
    }
    this.#tell({ type: 'mark', mark });
  }

  unmark(which: 'last' | 'all'): void {
    this.#show(withoutMark(this.#marks, this.#connection.seat, which));
    this.#tell({ type: 'unmark', which });
  }

  /** The right to draw, or what was drawn on, has ended. */
  forget(): void {
    if (this.#marks.length) this.#show([]);
  }

  close(): void {
    for (const endFading of this.#fading) endFading();
    this.listeners.clear();
  }

  #show(marks: readonly ShownMark[]): void {
    this.#marks = marks;
    this.listeners.emit('marks', marks);
  }

  #tell(message: DrawingMessage): void {
    const holder = consentHolderOf(this.#connection.state);
    if (holder) this.#line.send(holder.seat, message);
  }
}
