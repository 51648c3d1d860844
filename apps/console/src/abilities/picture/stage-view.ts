import { computed, nextTick, onBeforeUnmount, onMounted, ref, shallowRef, watch, type Ref } from 'vue';
import { canvasSize, MOST_SCALE, LEAST_SCALE, type StageScale } from './stage-geometry.ts';

/** So near to an edge of the room the picture moves under the pointer, in CSS pixels. */
const EDGE = 26;
const EDGE_STEP = 14;

interface At {
  readonly x: number;
  readonly y: number;
}

/** How large the picture is shown, and which part of it: spread and moved by hand where it is larger than its room. */
export function useStageView(parts: {
  readonly room: Ref<HTMLElement | undefined>;
  readonly screen: Ref<HTMLElement | undefined>;
  readonly size: Ref<{ width: number; height: number }>;
  scale(): StageScale;
  setScale(scale: StageScale): void;
}) {
  const { room, screen, size } = parts;
  const roomSize = shallowRef({ width: 800, height: 500 });
  /** The stage may stand in another window than the one that runs it. */
  const ownWindow = () => room.value?.ownerDocument.defaultView ?? window;
  const ratio = ref(window.devicePixelRatio);
  const shown = computed(() => canvasSize(size.value, roomSize.value, parts.scale(), ratio.value));
  const factor = computed(() => (size.value.width ? shown.value.width / size.value.width : 1));
  /** Whole pixels stay whole; what is made smaller is smoothed. */
  const rendering = computed(() => (factor.value * ratio.value >= 1 ? 'pixelated' : 'auto'));
  const isLarger = computed(
    () => shown.value.width > roomSize.value.width + 1 || shown.value.height > roomSize.value.height + 1,
  );
  /** The hand moves the picture instead of working with it. */
  const isMoving = ref(false);
  watch(isLarger, (is) => {
    if (!is) isMoving.value = false;
  });
  const observer = new ResizeObserver(([entry]) => {
    if (!entry) return;
    ratio.value = ownWindow().devicePixelRatio;
    roomSize.value = { width: entry.contentRect.width, height: entry.contentRect.height };
  });
  onMounted(() => {
    if (room.value) observer.observe(room.value);
  });

  const scrollBy = (x: number, y: number) => room.value?.scrollBy(x, y);

  /** Larger or smaller, and what was at this place of the window stays there. */
  async function zoomAt(at: At, times: number): Promise<void> {
    const before = screen.value?.getBoundingClientRect();
    if (!before) return;
    const pixel = { x: (at.x - before.left) / factor.value, y: (at.y - before.top) / factor.value };
    const wanted = factor.value * ratio.value * times;
    parts.setScale(Math.round(Math.max(LEAST_SCALE, Math.min(MOST_SCALE, wanted)) * 1000) / 1000);
    await nextTick();
    const after = screen.value?.getBoundingClientRect();
    if (after) scrollBy(after.left + pixel.x * factor.value - at.x, after.top + pixel.y * factor.value - at.y);
  }

  let draggedFrom: At | undefined;
  let edgeTimer = 0;
  let edge = { x: 0, y: 0 };
  const stopEdge = () => {
    ownWindow().cancelAnimationFrame(edgeTimer);
    edgeTimer = 0;
  };
  onBeforeUnmount(() => {
    observer.disconnect();
    stopEdge();
  });

  return {
    ...{ shown, factor, rendering, isLarger, isMoving, zoomAt, scrollBy, ownWindow, stopEdge },
    beginDrag: (event: PointerEvent) => (draggedFrom = { x: event.clientX, y: event.clientY }),
    /** Whether it is being dragged. */
    drag(event: PointerEvent): boolean {
      if (!draggedFrom) return false;
      scrollBy(draggedFrom.x - event.clientX, draggedFrom.y - event.clientY);
      draggedFrom = { x: event.clientX, y: event.clientY };
      return true;
    },
    endDrag: () => (draggedFrom = undefined),
    /** Who works at a picture larger than its room gets to its other parts by going to the edge. */
    followEdge(event: PointerEvent, moved: () => void): void {
      const box = room.value?.getBoundingClientRect();
      if (!box || !isLarger.value) return stopEdge();
      const towards = (at: number, from: number, to: number) =>
        at < from + EDGE ? -EDGE_STEP : at > to - EDGE ? EDGE_STEP : 0;
      edge = { x: towards(event.clientX, box.left, box.right), y: towards(event.clientY, box.top, box.bottom) };
      if (!edge.x && !edge.y) return stopEdge();
      const step = () => {
        scrollBy(edge.x, edge.y);
        moved();
        edgeTimer = ownWindow().requestAnimationFrame(step);
      };
      if (!edgeTimer) edgeTimer = ownWindow().requestAnimationFrame(step);
    },
  };
}
export type StageView = ReturnType<typeof useStageView>;
