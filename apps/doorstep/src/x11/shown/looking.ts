import type { Box } from '../server/box.ts';
import { fitted, original, pointAt, type View } from './view.ts';

interface Point {
  readonly x: number;
  readonly y: number;
}
interface Size {
  readonly width: number;
  readonly height: number;
}
const SCROLL_PX = 60;
/** A hand that trembles drags nothing. */
const DRAG_PX = 4;

/** How the person here looks at a picture: all of it, or one pixel for one, moved about. */
export class Looking {
  #isOriginal = false;
  #from: Point = { x: 0, y: 0 };
  #pressed: { readonly at: Point; readonly from: Point; wasDragged: boolean } | undefined;

  get isOriginal(): boolean {
    return this.#isOriginal;
  }
  view(picture: Size, room: Box): View {
    return this.#isOriginal ? original(picture, room, this.#from) : fitted(picture, room);
  }

  /** The other of the two; around a point of the picture where one was pressed. */
  toggle(picture: Size, room: Box, around?: Point): void {
    this.#isOriginal = !this.#isOriginal;
    if (around) this.#from = { x: around.x - room.width / 2, y: around.y - room.height / 2 };
    this.#keepIn(picture, room);
  }
  /** Whether anything can be moved: all of it is in sight otherwise. */
  scroll(picture: Size, room: Box, [x, y]: readonly [number, number]): boolean {
    if (this.#isOriginal)
      this.#look(picture, room, { x: this.#from.x + x * SCROLL_PX, y: this.#from.y + y * SCROLL_PX });
    return this.#isOriginal;
  }

  press(at: Point): void {
    this.#pressed = { at, from: this.#from, wasDragged: false };
  }
  /** Whether something else is in sight now. */
  drag(picture: Size, room: Box, to: Point): boolean {
    const began = this.#pressed;
    if (!began) return false;
    began.wasDragged ||= Math.abs(to.x - began.at.x) + Math.abs(to.y - began.at.y) > DRAG_PX;
    if (!began.wasDragged || !this.#isOriginal) return false;
    this.#look(picture, room, { x: began.from.x + began.at.x - to.x, y: began.from.y + began.at.y - to.y });
    return true;
  }
  /** A press without a drag in between shows that place in full size, or all of it again. */
  release(picture: Size, room: Box, at: Point): boolean {
    const isPress = this.#pressed !== undefined && !this.#pressed.wasDragged;
    this.#pressed = undefined;
    if (isPress) this.toggle(picture, room, pointAt(this.view(picture, room), at.x, at.y));
    return isPress;
  }

  #look(picture: Size, room: Box, from: Point): void {
    this.#from = from;
    this.#keepIn(picture, room);
  }
  #keepIn(picture: Size, room: Box): void {
    if (this.#isOriginal) this.#from = { ...this.view(picture, room).from };
  }
}
