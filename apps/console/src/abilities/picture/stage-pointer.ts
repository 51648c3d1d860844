import { inBackground, TouchHands, type TouchDeed } from '@porch/client';
import type { InputAct } from '@porch/wire';
import { onBeforeUnmount, type Ref } from 'vue';
import type { OwnPreferences } from '../../own-preferences.ts';
import { displayPoint, nearestPoint, wheelSteps } from './stage-geometry.ts';
import type { StageView } from './stage-view.ts';

const buttonOf = (event: MouseEvent) => (['left', 'middle', 'right'] as const)[event.button];
/** A pinch on a touchpad comes as a wheel with Control, of so many times for a pixel. */
const PINCH_PER_PIXEL = 0.01;
const MOST_PINCH = 1.5;
/** A mouse that moved less than this was meant to stay, in CSS pixels. */
const STAYS = 5;

/** Mouse, wheel and fingers at the stage, as acts on the display that it shows. */
export function useStagePointer(parts: {
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
}) {
  const { canvas, size, view, act, isOpen } = parts;
  let pendingMove: { x: number; y: number } | undefined;
  let pendingWheel: { x: number; y: number; stepsX: number; stepsY: number } | undefined;
  let timer = 0;
  /** Where fingers are by now; all that moved are told together. */
  const movedFingers = new Map<number, { x: number; y: number }>();
  let lastAt: MouseEvent | undefined;
  let pressedAt: MouseEvent | undefined;

  const rect = () => canvas.value?.getBoundingClientRect();
  function pointOf(at: { clientX: number; clientY: number }): { x: number; y: number } | undefined {
    const box = rect();
    return box && displayPoint({ x: at.clientX, y: at.clientY }, box, size.value);
  }
  /** One of each for every picture the browser draws is as fine as anybody can see. */
  function soon(): void {
    if (!timer) timer = view.ownWindow().requestAnimationFrame(flush);
  }
  function flush(): void {
    view.ownWindow().cancelAnimationFrame(timer);
    timer = 0;
    followFingers();
    if (pendingMove) act({ act: 'move', ...pendingMove });
    if (pendingWheel) act({ act: 'wheel', ...pendingWheel });
    pendingMove = pendingWheel = undefined;
  }
  onBeforeUnmount(() => view.ownWindow().cancelAnimationFrame(timer));

  function moveTo(at: { clientX: number; clientY: number }): void {
    const point = pointOf(at);
    if (!point || !isOpen()) return;
    pendingMove = point;
    soon();
  }
  function turn(at: { x: number; y: number }, { stepsX, stepsY }: { stepsX: number; stepsY: number }): void {
    const way = parts.preferences.now.value.isWheelReversed ? -1 : 1;
    pendingWheel = {
      ...at,
      stepsX: (pendingWheel?.stepsX ?? 0) + stepsX * way,
      stepsY: (pendingWheel?.stepsY ?? 0) + stepsY * way,
    };
    for (const axis of ['stepsX', 'stepsY'] as const)
      pendingWheel[axis] = Math.max(-20, Math.min(20, pendingWheel[axis]));
    soon();
  }

  const hands = new TouchHands(
    () => parts.preferences.now.value.touch,
    () => isOpen(),
  );
  function follow(deeds: readonly TouchDeed[]): void {
    for (const deed of deeds) {
      const at = nearestPoint(deed, view.factor.value, size.value);
      const box = rect();
      if (deed.does === 'zoom' && box)
        inBackground('spreading', view.zoomAt({ x: deed.x + box.left, y: deed.y + box.top }, deed.times));
      else if (deed.does === 'tap') parts.wantsToWork();
      else if (deed.does === 'scroll') {
        if (!isOpen()) view.scrollBy(-deed.byX, -deed.byY);
        else turn(at, wheelSteps(-deed.byX, -deed.byY, 0));
      } else if (deed.does === 'move') {
        pendingMove = at;
        soon();
      } else if (deed.does === 'press' || deed.does === 'letGo') {
        flush();
        parts.beforeButton();
        act({ act: 'button', ...at, button: deed.button, isDown: deed.does === 'press' });
      }
    }
  }
  function followFingers(): void {
    if (!movedFingers.size) return;
    const moved = new Map(movedFingers);
    movedFingers.clear();
    follow(hands.move(moved));
  }
  const fingerAt = (event: PointerEvent) => {
    const box = rect();
    return { x: event.clientX - (box?.left ?? 0), y: event.clientY - (box?.top ?? 0) };
  };
  const isFinger = (event: PointerEvent) => event.pointerType === 'touch';

  function handleButton(event: PointerEvent, isDown: boolean): void {
    if (isDown) canvas.value?.setPointerCapture(event.pointerId);
    if (isFinger(event)) {
      parts.onTouch();
      followFingers();
      const nowMs = performance.now();
      follow(isDown ? hands.down(event.pointerId, fingerAt(event), nowMs) : hands.up(event.pointerId, nowMs));
      return;
    }
    if (view.isMoving.value || !parts.isWorking()) return handleIdle(event, isDown);
    const button = buttonOf(event);
    const at = pointOf(event) ?? nearestPoint(fingerAt(event), view.factor.value, size.value);
    if (!button) return;
    flush();
    if (isDown) parts.beforeButton();
    act({ act: 'button', ...at, button, isDown });
  }
  /** While the mouse does not work there it moves the picture; where it stayed, somebody would like to work. */
  function handleIdle(event: PointerEvent, isDown: boolean): void {
    if (isDown) {
      pressedAt = event;
      if (event.button === 0 && view.isLarger.value) view.beginDrag(event);
      return;
    }
    view.endDrag();
    const from = pressedAt;
    pressedAt = undefined;
    const hasStayed = from && Math.hypot(event.clientX - from.clientX, event.clientY - from.clientY) < STAYS;
    if (hasStayed && !view.isMoving.value) parts.wantsToWork();
  }
  function handleMove(event: PointerEvent): void {
    if (isFinger(event)) {
      movedFingers.set(event.pointerId, fingerAt(event));
      soon();
      return;
    }
    if (view.drag(event)) return;
    lastAt = event;
    moveTo(event);
    if (isOpen()) view.followEdge(event, () => lastAt && moveTo(lastAt));
  }
  function handleWheel(event: WheelEvent): void {
    // A pinch is told as a wheel with a Control that nobody presses.
    if (event.ctrlKey && !parts.isControlDown()) {
      event.preventDefault();
      const times = Math.exp(-event.deltaY * PINCH_PER_PIXEL);
      const bounded = Math.max(1 / MOST_PINCH, Math.min(MOST_PINCH, times));
      inBackground('spreading', view.zoomAt({ x: event.clientX, y: event.clientY }, bounded));
      return;
    }
    const at = pointOf(event);
    if (!at || !isOpen()) return;
    event.preventDefault();
    turn(at, wheelSteps(event.deltaX, event.deltaY, event.deltaMode));
  }
  function handleCancel(event: PointerEvent): void {
    view.endDrag();
    movedFingers.clear();
    if (isFinger(event)) follow(hands.cancel());
  }
  return { handleButton, handleMove, handleWheel, handleCancel, pointOf };
}
