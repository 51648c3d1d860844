import type { GrowingMark } from '@porch/client';
import type { Mark } from '@porch/wire';
import { computed, shallowRef } from 'vue';
import type { DrawingTool } from './tool.ts';

/** Shorter steps of a hand are not worth a point. */
const LEAST_STEP = 0.0015;
type Place = Mark['points'][number];

/**
 * Drawing on the stage with the pointer. Lines are on the other screen while the hand still moves; what is drawn from one
 * place to another is when it is let go. `placeOf` says where on the picture the pointer is, in shares of its sides.
 */
export function useStagePen(
  pen: DrawingTool,
  display: () => number,
  placeOf: (event: MouseEvent) => Place | undefined,
) {
  /** What is drawn with; undefined while nothing is, or nothing may be. */
  const kind = computed(() => (pen.mayDraw.value ? pen.kind.value : undefined));
  /** From one place to another, not yet let go. */
  const drawing = shallowRef<Mark>();
  /** Where words are being written. */
  const writingAt = shallowRef<Place>();
  let growing: GrowingMark | undefined;
  let last: Place | undefined;

  function begin(event: PointerEvent): void {
    const here = placeOf(event);
    const what = kind.value;
    if (!what || !here) return;
    last = here;
    if (what === 'text') writingAt.value = here;
    else if (what === 'pen' || what === 'marker') growing = pen.begin(what, here, display());
    else {
      drawing.value = { kind: what, points: [here] };
      if (what === 'point') pen.mark(drawing.value, display());
    }
  }

  function goOn(event: PointerEvent): void {
    const here = placeOf(event);
    if (!here || !last) return;
    const isFar = Math.hypot(here.x - last.x, here.y - last.y) > LEAST_STEP;
    if (growing) {
      if (!isFar) return;
      growing.add([here]);
      last = here;
    } else if (drawing.value) {
      const { kind: what, points } = drawing.value;
      drawing.value = { kind: what, points: what === 'point' ? [here] : [...points.slice(0, 1), here] };
      if (what === 'point' && isFar) {
        pen.mark(drawing.value, display());
        last = here;
      }
    }
  }

  function end(event: PointerEvent): void {
    goOn(event);
    growing?.end();
    growing = undefined;
    last = undefined;
    const done = drawing.value;
    drawing.value = undefined;
    if (done && done.kind !== 'point' && done.points.length > 1) pen.mark(done, display());
  }

  function write(text: string): void {
    const at = writingAt.value;
    writingAt.value = undefined;
    if (at && text.trim()) pen.mark({ kind: 'text', points: [at], text: text.trim() }, display());
  }

  const isDrawing = (): boolean => kind.value !== undefined || drawing.value !== undefined || growing !== undefined;
  return { kind, drawing, writingAt, isDrawing, begin, goOn, end, write };
}
