import { computed, nextTick, ref, shallowRef, watch, type Ref } from 'vue';
import { boundedScale, canvasSize, type StageScale } from './stage-geometry.ts';

/** So near to an edge of the room the picture moves under the pointer, in CSS pixels. */
const EDGE = 26;
const EDGE_STEP = 14;

interface At {
  readonly x: number;
  readonly y: number;
}
interface StageViewParts {
  readonly room: Ref<HTMLElement | undefined>;
  readonly screen: Ref<HTMLElement | undefined>;
  readonly size: Ref<{ width: number; height: number }>;
  scale(): StageScale;
  setScale(scale: StageScale): void;
}

/**
 * How large the picture is shown, and which part of it: spread and moved by hand where it is larger than its room. Made by a
 * component, begun once that is mounted, and closed with it.
 */
export class StageView {
  readonly #parts: StageViewParts;
  readonly #roomSize = shallowRef({ width: 800, height: 500 });
  readonly #ratio = ref(window.devicePixelRatio);
  readonly #observer = new ResizeObserver(([entry]) => {
    if (!entry) return;
    this.#ratio.value = this.ownWindow().devicePixelRatio;
    this.#roomSize.value = { width: entry.contentRect.width, height: entry.contentRect.height };
  });
  readonly shown = computed(() =>
    canvasSize(this.#parts.size.value, this.#roomSize.value, this.#parts.scale(), this.#ratio.value),
  );
  readonly factor = computed(() => {
    const { width } = this.#parts.size.value;
    return width ? this.shown.value.width / width : 1;
  });
  /** Whole pixels stay whole; what is made smaller is smoothed. */
  readonly rendering = computed(() => (this.factor.value * this.#ratio.value >= 1 ? 'pixelated' : 'auto'));
  readonly isLarger = computed(
    () =>
      this.shown.value.width > this.#roomSize.value.width + 1 ||
      this.shown.value.height > this.#roomSize.value.height + 1,
  );
  /** The hand moves the picture instead of working with it. */
  readonly isMoving = ref(false);
  #draggedFrom: At | undefined;
  #edgeTimer = 0;
  #edge: At = { x: 0, y: 0 };

  constructor(parts: StageViewParts) {
    this.#parts = parts;
    watch(this.isLarger, (is) => {
      if (!is) this.isMoving.value = false;
    });
  }

  begin(): void {
    if (this.#parts.room.value) this.#observer.observe(this.#parts.room.value);
  }
  close(): void {
    this.#observer.disconnect();
    this.stopEdge();
  }

  /** The stage may stand in another window than the one that runs it. */
  ownWindow(): Window {
    return this.#parts.room.value?.ownerDocument.defaultView ?? window;
  }
  scrollBy(x: number, y: number): void {
    this.#parts.room.value?.scrollBy(x, y);
  }

  /** Larger or smaller, and what was at this place of the window stays there. */
  async zoomAt(at: At, times: number): Promise<void> {
    const { screen } = this.#parts;
    const before = screen.value?.getBoundingClientRect();
    if (!before) return;
    const pixel = { x: (at.x - before.left) / this.factor.value, y: (at.y - before.top) / this.factor.value };
    const wanted = this.factor.value * this.#ratio.value * times;
    this.#parts.setScale(Math.round(boundedScale(wanted) * 1000) / 1000);
    await nextTick();
    const after = screen.value?.getBoundingClientRect();
    if (!after) return;
    const factor = this.factor.value;
    this.scrollBy(after.left + pixel.x * factor - at.x, after.top + pixel.y * factor - at.y);
  }

  beginDrag(event: PointerEvent): void {
    this.#draggedFrom = { x: event.clientX, y: event.clientY };
  }
  /** Whether it is being dragged. */
  drag(event: PointerEvent): boolean {
    if (!this.#draggedFrom) return false;
    this.scrollBy(this.#draggedFrom.x - event.clientX, this.#draggedFrom.y - event.clientY);
    this.beginDrag(event);
    return true;
  }
  endDrag(): void {
    this.#draggedFrom = undefined;
  }

  /** Who works at a picture larger than its room gets to its other parts by going to the edge. */
  followEdge(event: PointerEvent, moved: () => void): void {
    const box = this.#parts.room.value?.getBoundingClientRect();
    if (!box || !this.isLarger.value) return this.stopEdge();
    const towards = (at: number, from: number, to: number) =>
      at < from + EDGE ? -EDGE_STEP : at > to - EDGE ? EDGE_STEP : 0;
    this.#edge = { x: towards(event.clientX, box.left, box.right), y: towards(event.clientY, box.top, box.bottom) };
    if (!this.#edge.x && !this.#edge.y) return this.stopEdge();
    const step = () => {
      this.scrollBy(this.#edge.x, this.#edge.y);
      moved();
      this.#edgeTimer = this.ownWindow().requestAnimationFrame(step);
    };
    if (!this.#edgeTimer) this.#edgeTimer = this.ownWindow().requestAnimationFrame(step);
  }
  stopEdge(): void {
    this.ownWindow().cancelAnimationFrame(this.#edgeTimer);
    this.#edgeTimer = 0;
  }
}
