<script setup lang="ts">
import { markColour, markPath } from '@porch/client';
import { MAX_MARK_POINTS, type InputAct, type Mark } from '@porch/wire';
import { NButton } from 'naive-ui';
import { computed, onBeforeUnmount, onMounted, ref, shallowRef } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import { drawingTool } from '../drawing/tool.ts';
import { inputTool } from '../input/tool.ts';
import { inWords } from '../../in-words.ts';
import { oldWords } from './picture-words.ts';
import { canvasSize, displayPoint, wheelSteps, type StageScale } from './stage-geometry.ts';
import { pictureTool } from './tool.ts';

const props = defineProps<{ session: ConsoleSession; display: number; scale: StageScale }>();
const picture = props.session.tool(pictureTool);
const input = props.session.tool(inputTool);
const pen = props.session.tool(drawingTool);
/** What is drawn with; undefined while nothing is, or nothing may be. */
const tool = computed(() => (pen.mayDraw.value ? pen.kind.value : undefined));

/** Shorter steps of a hand are not worth a point. */
const LEAST_STROKE = 0.004;
const canvas = ref<HTMLCanvasElement>();
const room = ref<HTMLDivElement>();
const keys = ref<HTMLTextAreaElement>();
const size = shallowRef({ width: 0, height: 0 });
const roomSize = shallowRef({ width: 800, height: 500 });
const cursor = shallowRef<{ url: string; width: number; height: number; hotX: number; hotY: number }>();
const cursorAt = shallowRef({ x: 0, y: 0 });
const isPointerHere = ref(false);
const shown = computed(() => canvasSize(size.value, roomSize.value, props.scale, window.devicePixelRatio));
const factor = computed(() => (size.value.width ? shown.value.width / size.value.width : 1));
const { state: lease, isWorking, dropped } = input;
/** Their pointer follows ours: ours is drawn where it is now, in their shape, without waiting for the picture. */
const isOwnPointer = computed(() => isPointerHere.value && lease.value.name === 'open');
const ownCursor = computed(() => {
  const c = cursor.value;
  if (!isOwnPointer.value) return undefined;
  return c && c.width <= 128 && c.height <= 128 ? `url(${c.url}) ${c.hotX} ${c.hotY}, default` : 'default';
});
/** Whole pixels stay whole; what is made smaller is smoothed. */
const rendering = computed(() => (factor.value * window.devicePixelRatio >= 1 ? 'pixelated' : 'auto'));
const ageMs = computed(() => picture.now.value?.ageMs);
const old = computed(() => oldWords(ageMs.value));
const offersWork = ref(false);
let stop: (() => void) | undefined;
let pendingMove: { x: number; y: number } | undefined;

const observer = new ResizeObserver(([entry]) => {
  if (entry) roomSize.value = { width: entry.contentRect.width, height: entry.contentRect.height };
});
onMounted(() => {
  if (room.value) observer.observe(room.value);
  if (!canvas.value) return;
  stop = picture.showDisplay(props.display, canvas.value, {
    onSize: (width, height) => (size.value = { width, height }),
    onCursorShape: ({ width, height, hotX, hotY, rgba }) => {
      const picture = document.createElement('canvas');
      Object.assign(picture, { width, height });
      picture.getContext('2d')?.putImageData(new ImageData(rgba, width, height), 0, 0);
      cursor.value = { url: picture.toDataURL(), width, height, hotX, hotY };
    },
    onCursorAt: (x, y) => (cursorAt.value = { x, y }),
  });
});
onBeforeUnmount(() => {
  observer.disconnect();
  stop?.();
});

const act = (what: InputAct) => input.act(props.display, what);
function pointOf(event: MouseEvent): { x: number; y: number } | undefined {
  return (
    canvas.value &&
    displayPoint({ x: event.clientX, y: event.clientY }, canvas.value.getBoundingClientRect(), size.value)
  );
}
const trouble = ref('');
function askToWork(): void {
  trouble.value = '';
  input.askToWork().catch((error: unknown) => (trouble.value = inWords(error)));
}
const buttonOf = (event: MouseEvent) => (['left', 'middle', 'right'] as const)[event.button];

/** What is being drawn, as shares of the picture. */
const drawing = shallowRef<Mark>();
const proportion = computed(() => (size.value.height ? size.value.width / size.value.height : 1));
const { marks: drawn } = pen;
function handleDraw(kind: Mark['kind'], event: PointerEvent, what: 'down' | 'move' | 'up'): void {
  const at = pointOf(event);
  if (what === 'move' && !drawing.value) return;
  const here = at && { x: at.x / size.value.width, y: at.y / size.value.height };
  if (what === 'down' && here) {
    canvas.value?.setPointerCapture(event.pointerId);
    drawing.value = { kind, points: [here] };
    if (kind === 'point') pen.mark(drawing.value);
  } else if (drawing.value && here) {
    const { points } = drawing.value;
    const last = points.at(-1);
    const isFar = !last || Math.hypot(here.x - last.x, here.y - last.y) > LEAST_STROKE;
    if (kind === 'pen' && isFar && points.length < MAX_MARK_POINTS) drawing.value = { kind, points: [...points, here] };
    else if (kind !== 'pen')
      drawing.value = { kind, points: kind === 'point' ? [here] : [...points.slice(0, 1), here] };
    if (kind === 'point' && isFar) pen.mark(drawing.value);
  }
  if (what === 'up') {
    if (drawing.value && kind !== 'point' && drawing.value.points.length > 1) pen.mark(drawing.value);
    drawing.value = undefined;
  }
}

function handleButton(event: PointerEvent, isDown: boolean): void {
  if (tool.value) {
    if (event.button === 0) handleDraw(tool.value, event, isDown ? 'down' : 'up');
    return;
  }
  const at = pointOf(event);
  const button = buttonOf(event);
  if (!at || !button) return;
  keys.value?.focus({ preventScroll: true });
  if (!isWorking.value) {
    offersWork.value = !input.mayWork.value;
    if (isDown && !offersWork.value) input.open();
    return;
  }
  flushMove();
  if (isDown) canvas.value?.setPointerCapture(event.pointerId);
  act({ act: 'button', ...at, button, isDown });
}
function handleMove(event: PointerEvent): void {
  if (tool.value) {
    handleDraw(tool.value, event, 'move');
    return;
  }
  isPointerHere.value = true;
  const at = pointOf(event);
  if (!at || lease.value.name !== 'open') return;
  // One move for each picture the browser draws is as fine as anybody can see.
  if (!pendingMove) requestAnimationFrame(flushMove);
  pendingMove = at;
}
function flushMove(): void {
  if (pendingMove) act({ act: 'move', ...pendingMove });
  pendingMove = undefined;
}
function handleWheel(event: WheelEvent): void {
  const at = pointOf(event);
  if (!at || lease.value.name !== 'open') return;
  event.preventDefault();
  const steps = wheelSteps(event.deltaX, event.deltaY, event.deltaMode);
  if (steps.stepsX || steps.stepsY) act({ act: 'wheel', ...at, ...steps });
}
/** What is down over there, by the key of this keyboard. */
const keysDown = new Map<string, string>();
function handleKey(event: KeyboardEvent, isDown: boolean): void {
  // A dead key or a character being composed comes as text once it is whole.
  if (lease.value.name !== 'open' || event.isComposing || event.key === 'Dead' || event.key === 'Process') return;
  // The way out for people who have only a keyboard.
  if (event.key === 'Escape' && event.shiftKey) {
    if (isDown) {
      input.release();
      keys.value?.blur();
    }
    return;
  }
  event.preventDefault();
  // The same key goes up by another name when Shift changed meanwhile: over there it went down by this one.
  const key = isDown ? event.key : (keysDown.get(event.code) ?? event.key);
  if (isDown) keysDown.set(event.code, key);
  else keysDown.delete(event.code);
  act({ act: 'key', key, isDown });
}
function handleComposed(event: CompositionEvent): void {
  if (event.data) act({ act: 'text', text: event.data });
  if (keys.value) keys.value.value = '';
}
/** What a dead key made arrives in the field without a key of its own. */
function handleTyped(event: Event): void {
  const { inputType, data, isComposing } = event as InputEvent;
  if (!isComposing && inputType === 'insertText' && data) act({ act: 'text', text: data });
  if (!isComposing && keys.value) keys.value.value = '';
}
function handlePaste(event: ClipboardEvent): void {
  event.preventDefault();
}
/** Whatever was down when the window lost its keyboard must not stay down, or repeat, over there. */
function handleBlur(): void {
  if (lease.value.name === 'open')
    for (const key of new Set([...keysDown.values(), 'Control', 'Shift', 'Alt', 'Meta']))
      act({ act: 'key', key, isDown: false });
  keysDown.clear();
}
</script>

<template>
  <div ref="room" class="room" :class="{ scrolls: scale !== 'fit' }">
    <div
      class="screen"
      :class="{ working: isWorking, old: old }"
      :style="{ width: `${shown.width}px`, height: `${shown.height}px`, cursor: ownCursor }"
      @pointerdown.prevent="handleButton($event, true)"
      @pointerup.prevent="handleButton($event, false)"
      @pointermove="handleMove"
      @pointerleave="isPointerHere = false"
      @wheel="handleWheel"
      @contextmenu.prevent
    >
      <canvas
        ref="canvas"
        data-test="stage-canvas"
        :style="{ width: `${shown.width}px`, height: `${shown.height}px`, imageRendering: rendering }"
      />
      <svg
        v-if="drawn.length || drawing"
        class="marks"
        viewBox="0 0 1000 1000"
        preserveAspectRatio="none"
        aria-hidden="true"
      >
        <path v-for="one in drawn" :key="one.id" :d="markPath(one.mark, proportion)" :stroke="markColour(one.seat)" />
        <path v-if="drawing" :d="markPath(drawing, proportion)" :stroke="markColour(session.connection.seat)" />
      </svg>
      <img
        v-if="cursor && size.width && !isOwnPointer"
        class="cursor"
        alt=""
        :src="cursor.url"
        :style="{
          left: `${(cursorAt.x - cursor.hotX) * factor}px`,
          top: `${(cursorAt.y - cursor.hotY) * factor}px`,
          width: `${cursor.width * factor}px`,
        }"
      />
    </div>
    <textarea
      ref="keys"
      class="keys"
      data-test="stage-keys"
      aria-label="The customer's screen. While you work there, what you type goes to it; Shift and Escape together bring you back."
      autocomplete="off"
      autocapitalize="off"
      spellcheck="false"
      @keydown="handleKey($event, true)"
      @keyup="handleKey($event, false)"
      @compositionend="handleComposed"
      @input="handleTyped"
      @paste="handlePaste"
      @blur="handleBlur"
    />
    <p v-if="old" class="word" role="status" data-test="old">{{ old }}</p>
    <p v-else-if="lease.name === 'paused'" class="word" role="status">{{ lease.why }}: your input waits a moment</p>
    <p v-else-if="isWorking && dropped" class="word" role="status" data-test="dropped">Not done: {{ dropped }}</p>
    <p v-else-if="trouble" class="word" role="alert">{{ trouble }}</p>
    <p v-else-if="offersWork && !input.mayWork.value" class="word" role="status">
      You may only see.
      <NButton size="tiny" type="primary" @click="askToWork()">Ask to use mouse and keyboard</NButton>
    </p>
  </div>
</template>

<style scoped>
.room {
  position: relative;
  width: 100%;
  height: 100%;
  overflow: hidden;
  display: grid;
  place-items: center;
  background: var(--stage);
  isolation: isolate;
}
.room.scrolls {
  overflow: auto;
  place-items: start;
}
.screen {
  position: relative;
  touch-action: none;
  line-height: 0;
}
.screen.working {
  outline: 3px solid #f2b84b;
}
.screen.old canvas {
  filter: saturate(0.2) brightness(0.8);
}
.marks {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.marks path {
  fill: none;
  stroke-width: 4px;
  vector-effect: non-scaling-stroke;
  stroke-linecap: round;
  stroke-linejoin: round;
}
.cursor {
  position: absolute;
  pointer-events: none;
}
.keys {
  position: absolute;
  left: 4px;
  bottom: 4px;
  width: 24px;
  height: 24px;
  background: #22302f;
  color: #faf6ec;
  caret-color: transparent;
  z-index: -1;
  border: 0;
  padding: 0;
  resize: none;
  pointer-events: none;
}
.keys:focus-visible {
  outline: none;
}
.room:has(.keys:focus-visible) {
  box-shadow: inset 0 0 0 3px #f2b84b;
}
.word {
  position: absolute;
  bottom: 0.6rem;
  margin: 0;
  padding: 0.3rem 0.8rem;
  background: #faf6ec;
  color: #1d2b2c;
  border-radius: 8px;
}
</style>
