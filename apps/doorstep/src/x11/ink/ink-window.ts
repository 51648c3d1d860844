import x11, { type Shape } from 'x11';
import type { Box } from '../server/box.ts';
import type { XConnection } from '../server/connection.ts';
import { paint, type Painting } from '../server/painting.ts';
import type { Row } from './stroke-rows.ts';

/** A window that is nothing but its shape, of one colour or with words in it, and that every click goes through. */
export class InkWindow {
  readonly id: number;
  readonly #x: XConnection;
  readonly #shape: Shape;
  #painting: { readonly gc: number; readonly picture: Painting } | undefined;

  constructor(x: XConnection, shape: Shape, { x: left, y: top, width, height }: Box, colour: number) {
    this.#x = x;
    this.#shape = shape;
    const { client } = x;
    this.id = client.AllocID();
    client.CreateWindow(this.id, x.root, left, top, width, height, 0, 0, 0, 0, {
      overrideRedirect: 1,
      backgroundPixel: colour,
      eventMask: (x11.eventMask['Exposure'] ?? 0) | (x11.eventMask['StructureNotify'] ?? 0),
    });
    shape.Rectangles(shape.Op['Set'] ?? 0, shape.Kind['Input'] ?? 2, this.id, 0, 0, []);
  }

  /** Nothing of it is to be seen yet, but what is added. */
  asStroke(): this {
    const { Op, Kind } = this.#shape;
    this.#shape.Rectangles(Op['Set'] ?? 0, Kind['Bounding'] ?? 0, this.id, 0, 0, []);
    return this;
  }
  add(rows: readonly Row[]): void {
    const { Op, Kind } = this.#shape;
    this.#shape.Rectangles(Op['Union'] ?? 1, Kind['Bounding'] ?? 0, this.id, 0, 0, rows);
  }

  withPicture(picture: Painting): this {
    const gc = this.#x.client.AllocID();
    this.#x.client.CreateGC(gc, this.id, {});
    this.#painting = { gc, picture };
    return this;
  }
  /** What it shows was uncovered. */
  repaint(): void {
    if (this.#painting && !this.#x.isGone) paint(this.#x, this.id, this.#painting.gc, this.#painting.picture);
  }

  map(): void {
    this.#x.client.MapWindow(this.id);
    this.repaint();
  }
  close(): void {
    if (!this.#x.isGone) this.#x.client.DestroyWindow(this.id);
  }
}
