import { inBackground, TouchHands, type TouchDeed } from '@porch/client';
import type { InputAct } from '@porch/wire';
import type { Ref } from 'vue';
import type { OwnPreferences } from '../../own-preferences.ts';
import { displayPoint, nearestPoint, wheelSteps } from './stage-geometry.ts';
import type { StageView } from './stage-view.ts';

const buttonOf = (event: MouseEvent) => (['left', 'middle', 'right'] as const)[event.button];
const isFinger = (event: PointerEvent) => event.pointerType === 'touch';
/** A pinch on a touchpad comes as a wheel with Control, of so many times for a pixel. */
const PINCH_PER_PIXEL = 0.01;
const MOST_PINCH = 1.5;
/** As much as one act can turn. */
const MOST_STEPS = 20;
/** A mouse that moved less than this was meant to stay, in CSS pixels. */
const STAYS = 5;

interface Point {
  readonly x: number;
  readonly y: number;
}
interface StagePointerParts {
  readonly canvas: Ref<HTMLCanvasElement | undefined>;
  readonly size: Ref<{ width: number; height: number }>;
  readonly view: StageView;
  readonly preferences: OwnPreferences;
  isOpen(): boolean;
  isWorking(): boolean;
  isControlDown(): boolean;
  act(what: InputAct): void;
  /** What was held back of the keyboard comes before a button. */
  beforeButton(): void;
  /** Pressed where nobody works yet. */
  wantsToWork(): void;
  onTouch(): void;
}

/** Mouse, wheel and fingers at the stage, as acts on the display that it shows. */
export class StagePointer {
  readonly #parts: StagePointerParts;
  readonly #hands: TouchHands;
  /** Where fingers are by now; all that moved are told together. */
  readonly #movedFingers = new Map<number, Point>();
  #move: Point | undefined;
  #wheel: (Point & { stepsX: number; stepsY: number }) | undefined;
  #timer = 0;
  #lastAt: MouseEvent | undefined;
  #pressedAt: MouseEvent | undefined;

  constructor(parts: StagePointerParts) {
    this.#parts = parts;
    this.#hands = new TouchHands(
      () => parts.preferences.now.value.touch,
      () => parts.isOpen(),
    );
  }

  pointOf(at: { clientX: number; clientY: number }): Point | undefined {
    const box = this.#box;
    return box && displayPoint({ x: at.clientX, y: at.clientY }, box, this.#parts.size.value);
  }

  handleButton(event: PointerEvent, isDown: boolean): void {
    const { canvas, view, act, isWorking, beforeButton } = this.#parts;
    if (isDown) canvas.value?.setPointerCapture(event.pointerId);
    if (isFinger(event)) return this.#handleFinger(event, isDown);
    if (view.isMoving.value || !isWorking()) return this.#handleIdle(event, isDown);
    const button = buttonOf(event);
    const at = this.pointOf(event) ?? this.#nearest(this.#placeOf(event));
    if (!button) return;
    this.#flush();
    if (isDown) beforeButton();
    act({ act: 'button', ...at, button, isDown });
  }

  handleMove(event: PointerEvent): void {
    const { view, isOpen } = this.#parts;
    if (isFinger(event)) {
      this.#movedFingers.set(event.pointerId, this.#placeOf(event));
      this.#soon();
      return;
    }
    if (view.drag(event)) return;
    this.#lastAt = event;
    this.#moveTo(event);
    if (isOpen()) view.followEdge(event, () => this.#lastAt && this.#moveTo(this.#lastAt));
  }

  handleWheel(event: WheelEvent): void {
    const { view, isOpen, isControlDown } = this.#parts;
    // A pinch is told as a wheel with a Control that nobody presses.
    if (event.ctrlKey && !isControlDown()) {
      event.preventDefault();
      const times = Math.exp(-event.deltaY * PINCH_PER_PIXEL);
      const bounded = Math.max(1 / MOST_PINCH, Math.min(MOST_PINCH, times));
      inBackground('spreading', view.zoomAt({ x: event.clientX, y: event.clientY }, bounded));
      return;
    }
    const at = this.pointOf(event);
    if (!at || !isOpen()) return;
    event.preventDefault();
    this.#turn(at, wheelSteps(event.deltaX, event.deltaY, event.deltaMode));
  }

  handleCancel(event: PointerEvent): void {
    this.#parts.view.endDrag();
    this.#movedFingers.clear();
    if (isFinger(event)) this.#follow(this.#hands.cancel());
  }

  close(): void {
    this.#parts.view.ownWindow().cancelAnimationFrame(this.#timer);
  }

  get #box(): DOMRect | undefined {
    return this.#parts.canvas.value?.getBoundingClientRect();
  }
  /** From the upper left of the picture. */
  #placeOf(event: PointerEvent): Point {
    const box = this.#box;
    return { x: event.clientX - (box?.left ?? 0), y: event.clientY - (box?.top ?? 0) };
  }
  #nearest(place: Point): Point {
    return nearestPoint(place, this.#parts.view.factor.value, this.#parts.size.value);
  }

  /** One of each for every picture the browser draws is as fine as anybody can see. */
  #soon(): void {
    if (!this.#timer) this.#timer = this.#parts.view.ownWindow().requestAnimationFrame(() => this.#flush());
  }
  #flush(): void {
    this.close();
    this.#timer = 0;
    this.#followFingers();
    const { act } = this.#parts;
    if (this.#move) act({ act: 'move', ...this.#move });
    if (this.#wheel) act({ act: 'wheel', ...this.#wheel });
    this.#move = this.#wheel = undefined;
  }
  #moveTo(at: { clientX: number; clientY: number }): void {
    const point = this.pointOf(at);
    if (!point || !this.#parts.isOpen()) return;
    this.#move = point;
    this.#soon();
  }
  #turn(at: Point, { stepsX, stepsY }: { stepsX: number; stepsY: number }): void {
    const way = this.#parts.preferences.now.value.isWheelReversed ? -1 : 1;
    const bounded = (steps: number) => Math.max(-MOST_STEPS, Math.min(MOST_STEPS, steps));
    this.#wheel = {
      ...at,
      stepsX: bounded((this.#wheel?.stepsX ?? 0) + stepsX * way),
      stepsY: bounded((this.#wheel?.stepsY ?? 0) + stepsY * way),
    };
    this.#soon();
  }

  /** While the mouse does not work there it moves the picture; where it stayed, somebody would like to work. */
  #handleIdle(event: PointerEvent, isDown: boolean): void {
    const { view, wantsToWork } = this.#parts;
    if (isDown) {
      this.#pressedAt = event;
      if (event.button === 0 && view.isLarger.value) view.beginDrag(event);
      return;
    }
    view.endDrag();
    const from = this.#pressedAt;
    this.#pressedAt = undefined;
    const hasStayed = from && Math.hypot(event.clientX - from.clientX, event.clientY - from.clientY) < STAYS;
    if (hasStayed && !view.isMoving.value) wantsToWork();
  }

  #handleFinger(event: PointerEvent, isDown: boolean): void {
    this.#parts.onTouch();
    this.#followFingers();
    const nowMs = performance.now();
    this.#follow(
      isDown ? this.#hands.down(event.pointerId, this.#placeOf(event), nowMs) : this.#hands.up(event.pointerId, nowMs),
    );
  }
  #followFingers(): void {
    if (!this.#movedFingers.size) return;
    const moved = new Map(this.#movedFingers);
    this.#movedFingers.clear();
    this.#follow(this.#hands.move(moved));
  }
  #follow(deeds: readonly TouchDeed[]): void {
    for (const deed of deeds) this.#do(deed, this.#nearest(deed));
  }
  #do(deed: TouchDeed, at: Point): void {
    const { view, isOpen, act, beforeButton, wantsToWork } = this.#parts;
    const box = this.#box;
    switch (deed.does) {
      case 'zoom':
        if (box) inBackground('spreading', view.zoomAt({ x: deed.x + box.left, y: deed.y + box.top }, deed.times));
        break;
      case 'tap':
        wantsToWork();
        break;
      case 'scroll':
        if (!isOpen()) view.scrollBy(-deed.byX, -deed.byY);
        else this.#turn(at, wheelSteps(-deed.byX, -deed.byY, 0));
        break;
      case 'move':
        this.#move = at;
        this.#soon();
        break;
      case 'press':
      case 'letGo':
        this.#flush();
        beforeButton();
        act({ act: 'button', ...at, button: deed.button, isDown: deed.does === 'press' });
    }
  }
}
