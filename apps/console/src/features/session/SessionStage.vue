<script setup lang="ts">
import { NButton } from 'naive-ui';
import { computed, onBeforeUnmount, onMounted, ref, shallowRef } from 'vue';
import { canvasSize, displayPoint, WheelSteps } from './stage-geometry.ts';
import type { TechnicianSession } from './technician-session.ts';

const props = defineProps<{ session: TechnicianSession; mode: 'fit' | 'original' }>();
const emit = defineEmits<{ askToWork: [] }>();

const canvas = ref<HTMLCanvasElement>();
const room = ref<HTMLDivElement>();
const keys = ref<HTMLTextAreaElement>();
const display = shallowRef({ width: 0, height: 0 });
const roomSize = shallowRef({ width: 800, height: 500 });
const cursor = shallowRef<{ url: string; width: number; height: number; hotX: number; hotY: number }>();
const cursorAt = shallowRef({ x: 0, y: 0 });
const wheel = new WheelSteps();
const size = computed(() => canvasSize(display.value, roomSize.value, props.mode, window.devicePixelRatio));
const scale = computed(() => (display.value.width ? size.value.width / display.value.width : 1));
const lease = computed(() => props.session.leaseState.value);
const isWorking = computed(() => lease.value.name === 'open' || lease.value.name === 'paused');
const offersWork = ref(false);
let context: CanvasRenderingContext2D | undefined;
let pendingMove: { x: number; y: number } | undefined;

const observer = new ResizeObserver(([entry]) => {
  if (entry) roomSize.value = { width: entry.contentRect.width, height: entry.contentRect.height };
});
onMounted(() => {
  if (room.value) observer.observe(room.value);
  context = canvas.value?.getContext('2d', { alpha: false }) ?? undefined;
  props.session.setPainter({
    resize: (width, height) => {
      display.value = { width, height };
      if (canvas.value) Object.assign(canvas.value, { width, height });
    },
    paint: (tiles) => {
      for (const { rect, rgba } of tiles)
        context?.putImageData(new ImageData(rgba, rect.width, rect.height), rect.x, rect.y);
    },
    cursorShape: ({ width, height, hotX, hotY, rgba }) => {
      const picture = document.createElement('canvas');
      Object.assign(picture, { width, height });
      picture.getContext('2d')?.putImageData(new ImageData(rgba, width, height), 0, 0);
      cursor.value = { url: picture.toDataURL(), width, height, hotX, hotY };
    },
    cursorAt: (x, y) => (cursorAt.value = { x, y }),
    forget: () => context?.clearRect(0, 0, display.value.width, display.value.height),
  });
});
onBeforeUnmount(() => {
  observer.disconnect();
  props.session.setPainter(undefined);
});

function pointOf(event: MouseEvent): { x: number; y: number } | undefined {
  return (
    canvas.value &&
    displayPoint({ x: event.clientX, y: event.clientY }, canvas.value.getBoundingClientRect(), display.value)
  );
}
const buttonOf = (event: MouseEvent) => (['left', 'middle', 'right'] as const)[event.button];

function handleButton(event: PointerEvent, isDown: boolean): void {
  const at = pointOf(event);
  const button = buttonOf(event);
  if (!at || !button) return;
  keys.value?.focus({ preventScroll: true });
  if (!isWorking.value) {
    offersWork.value = !props.session.may('control-input');
    if (isDown && !offersWork.value) props.session.lease.open();
    return;
  }
  flushMove();
  if (isDown) canvas.value?.setPointerCapture(event.pointerId);
  props.session.lease.act({ act: 'button', ...at, button, isDown });
}
function handleMove(event: PointerEvent): void {
  const at = pointOf(event);
  if (!at || lease.value.name !== 'open') return;
  // One move for each picture the browser draws is as fine as anybody can see.
  if (!pendingMove) requestAnimationFrame(flushMove);
  pendingMove = at;
}
function flushMove(): void {
  if (pendingMove) props.session.lease.act({ act: 'move', ...pendingMove });
  pendingMove = undefined;
}
function handleWheel(event: WheelEvent): void {
  const at = pointOf(event);
  if (!at || lease.value.name !== 'open') return;
  event.preventDefault();
  const steps = wheel.take(event.deltaX, event.deltaY, event.deltaMode);
  if (steps.stepsX || steps.stepsY) props.session.lease.act({ act: 'wheel', ...at, ...steps });
}
function handleKey(event: KeyboardEvent, isDown: boolean): void {
  if (lease.value.name !== 'open' || event.isComposing || event.key === 'Dead' || event.key === 'Process') return;
  // The way out for people who have only a keyboard.
  if (event.key === 'Escape' && event.shiftKey) {
    if (isDown) {
      props.session.lease.release();
      keys.value?.blur();
    }
    return;
  }
  event.preventDefault();
  props.session.lease.act({ act: 'key', key: event.key, isDown });
}
function handleComposed(event: CompositionEvent): void {
  if (event.data) props.session.lease.act({ act: 'text', text: event.data });
  if (keys.value) keys.value.value = '';
}
function handlePaste(event: ClipboardEvent): void {
  event.preventDefault();
}
</script>

<template>
  <div ref="room" class="room" :class="mode">
    <div
      class="screen"
      :class="{ working: isWorking }"
      :style="{ width: `${size.width}px`, height: `${size.height}px` }"
      @pointerdown.prevent="handleButton($event, true)"
      @pointerup.prevent="handleButton($event, false)"
      @pointermove="handleMove"
      @wheel="handleWheel"
      @contextmenu.prevent
    >
      <canvas ref="canvas" data-test="stage-canvas" :style="{ width: `${size.width}px`, height: `${size.height}px` }" />
      <img
        v-if="cursor && display.width"
        class="cursor"
        alt=""
        :src="cursor.url"
        :style="{
          left: `${(cursorAt.x - cursor.hotX) * scale}px`,
          top: `${(cursorAt.y - cursor.hotY) * scale}px`,
          width: `${cursor.width * scale}px`,
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
      @paste="handlePaste"
    />
    <p v-if="lease.name === 'paused'" class="word" role="status">{{ lease.why }}: your input waits a moment</p>
    <p v-else-if="isWorking && session.dropped.value" class="word" role="status" data-test="dropped">
      Not done: {{ session.dropped.value }}
    </p>
    <p v-else-if="offersWork && !session.may('control-input')" class="word" role="status">
      You may only see.
      <NButton size="tiny" type="primary" @click="emit('askToWork')">Ask to work mouse and keyboard</NButton>
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
.room.original {
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
