import { MAX_MARK_POINTS, type Mark } from '@porch/wire';
import { computed, shallowRef } from 'vue';
import type { DrawingTool } from './tool.ts';

/** Shorter steps of a hand are not worth a point. */
const LEAST_STROKE = 0.004;

/** Drawing on the stage with the pointer. `placeOf` says where on the picture it is, in shares of its sides. */
export function useStagePen(pen: DrawingTool, placeOf: (event: MouseEvent) => { x: number; y: number } | undefined) {
  /** What is drawn with; undefined while nothing is, or nothing may be. */
  const kind = computed(() => (pen.mayDraw.value ? pen.kind.value : undefined));
  const drawing = shallowRef<Mark>();

  function begin(event: PointerEvent): void {
    const here = placeOf(event);
    if (!kind.value || !here) return;
    drawing.value = { kind: kind.value, points: [here] };
    if (kind.value === 'point') pen.mark(drawing.value);
  }

  function goOn(event: PointerEvent): void {
    const here = placeOf(event);
    if (!drawing.value || !here) return;
    const { kind: what, points } = drawing.value;
    const last = points.at(-1);
    const isFar = !last || Math.hypot(here.x - last.x, here.y - last.y) > LEAST_STROKE;
    if (what === 'pen') {
      if (isFar && points.length < MAX_MARK_POINTS) drawing.value = { kind: what, points: [...points, here] };
    } else drawing.value = { kind: what, points: what === 'point' ? [here] : [...points.slice(0, 1), here] };
    if (what === 'point' && isFar) pen.mark(drawing.value);
  }

  function end(event: PointerEvent): void {
    goOn(event);
    const done = drawing.value;
    drawing.value = undefined;
    if (done && done.kind !== 'point' && done.points.length > 1) pen.mark(done);
  }

  return { kind, drawing, begin, goOn, end };
}
