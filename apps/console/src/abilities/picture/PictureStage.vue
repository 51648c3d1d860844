<script setup lang="ts">
import { inBackground } from '@porch/client';
import type { InputAct } from '@porch/wire';
import { NButton } from 'naive-ui';
import { computed, onBeforeUnmount, onMounted, ref, shallowRef } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import { useStagePaste } from '../clipboard/stage-paste.ts';
import { clipboardTool } from '../clipboard/tool.ts';
import StageMarks from '../drawing/StageMarks.vue';
import { useStagePen } from '../drawing/stage-pen.ts';
import { drawingTool } from '../drawing/tool.ts';
import { useStageKeys } from '../input/stage-keys.ts';
import { inputTool } from '../input/tool.ts';
import { inWords } from '../../in-words.ts';
import { oldSeconds } from './picture-words.ts';
import { canvasSize, displayPoint, wheelSteps, type StageScale } from './stage-geometry.ts';
import { pictureTool } from './tool.ts';
import { reasonInWords, speech, w } from '../../words/index.ts';

const props = defineProps<{ session: ConsoleSession; display: number; scale: StageScale }>();
const picture = props.session.tool(pictureTool);
const input = props.session.tool(inputTool);
const pen = props.session.tool(drawingTool);

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
const old = computed(() => {
  const seconds = oldSeconds(ageMs.value);
  return seconds === undefined ? '' : w.value.picture.old({ seconds });
});
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

const stroke = useStagePen(
  pen,
  () => props.display,
  (event) => {
    const at = pointOf(event);
    return at && { x: at.x / size.value.width, y: at.y / size.value.height };
  },
);
const { drawing, isDrawing, writingAt } = stroke;
const proportion = computed(() => (size.value.height ? size.value.width / size.value.height : 1));
const drawn = computed(() => pen.marks.value.filter(({ display }) => display === props.display));
function nameAt(seat: number): string {
  const { participants, customerName } = props.session.state.value;
  const who = Object.values(participants).find((p) => p.seat === seat);
  return (who?.side === 'customer' ? customerName : who?.name) ?? w.value.drawing.customer;
}

function handleButton(event: PointerEvent, isDown: boolean): void {
  if (isDrawing()) {
    if (event.button !== 0) return;
    if (isDown) canvas.value?.setPointerCapture(event.pointerId);
    (isDown ? stroke.begin : stroke.end)(event);
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
  if (isDrawing()) {
    stroke.goOn(event);
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
const clips = props.session.tool(clipboardTool);
const mayPaste = () => clips.mayGive.value;
const { handleKey, handleComposed, handleTyped, handleBlur, isControlDown } = useStageKeys({
  field: keys,
  isOpen: () => lease.value.name === 'open',
  act,
  release: () => input.release(),
  clips: { mayPaste, copyPressed: () => clips.copyPressed() },
});
const handlePaste = useStagePaste({
  isOpen: () => lease.value.name === 'open',
  act,
  mayPaste,
  paste: (data) => clips.paste(data),
  isControlDown,
});
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
      <StageMarks
        :marks="drawn"
        :drawing="drawing"
        :writing-at="writingAt"
        :seat="session.connection.seat"
        :proportion="proportion"
        :factor="factor"
        :name-of="nameAt"
        @write="stroke.write"
      />
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
      :aria-label="w.picture.stage"
      autocomplete="off"
      autocapitalize="off"
      spellcheck="false"
      @keydown="handleKey($event, true)"
      @keyup="handleKey($event, false)"
      @compositionend="handleComposed"
      @input="handleTyped"
      @paste="inBackground('pasting', handlePaste($event))"
      @blur="handleBlur"
    />
    <p v-if="old" class="word" role="status" data-test="old">{{ old }}</p>
    <p v-else-if="lease.name === 'paused'" class="word" role="status">
      {{ w.picture.paused({ why: speech.capital(reasonInWords(lease.why)) }) }}
    </p>
    <p v-else-if="isWorking && dropped" class="word" role="status" data-test="dropped">
      {{ w.picture.notDone({ why: reasonInWords(dropped) }) }}
    </p>
    <p v-else-if="trouble" class="word" role="alert">{{ trouble }}</p>
    <p v-else-if="offersWork && !input.mayWork.value" class="word" role="status">
      {{ w.picture.onlySee }}
      <NButton size="tiny" type="primary" @click="askToWork()">{{ w.picture.askToWork }}</NButton>
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
