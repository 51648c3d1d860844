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
import { StageKeys } from '../input/stage-keys.ts';
import { inputTool } from '../input/tool.ts';
import StageLens from './StageLens.vue';
import StageWord from './StageWord.vue';
import type { StageScale } from './stage-geometry.ts';
import { StagePointer } from './stage-pointer.ts';
import { StageView } from './stage-view.ts';
import { pictureTool } from './tool.ts';
import { w } from '../../words/index.ts';

const props = defineProps<{ session: ConsoleSession; display: number; scale: StageScale }>();
const emit = defineEmits<{ scale: [scale: StageScale] }>();
const picture = props.session.tool(pictureTool);
const input = props.session.tool(inputTool);
const pen = props.session.tool(drawingTool);

const canvas = ref<HTMLCanvasElement>();
const screen = ref<HTMLDivElement>();
const room = ref<HTMLDivElement>();
const keys = ref<HTMLTextAreaElement>();
const size = shallowRef({ width: 0, height: 0 });
const cursor = shallowRef<{ url: string; width: number; height: number; hotX: number; hotY: number }>();
const cursorAt = shallowRef({ x: 0, y: 0 });
/** Where ours is, in pixels of the display, while it is over it. */
const pointerAt = shallowRef<{ x: number; y: number }>();
const view = new StageView({ room, screen, size, scale: () => props.scale, setScale: (scale) => emit('scale', scale) });
const { shown, factor, rendering, isLarger, isMoving } = view;
const { state: lease, isWorking } = input;
const isOpen = () => lease.value.name === 'open';
/** Their pointer follows ours: ours is drawn where it is now, in their shape, without waiting for the picture. */
const isOwnPointer = computed(() => pointerAt.value !== undefined && isOpen());
const ownCursor = computed(() => {
  if (isMoving.value || (isLarger.value && !isWorking.value)) return 'grab';
  const c = cursor.value;
  if (!isOwnPointer.value) return undefined;
  return c && c.width <= 128 && c.height <= 128 ? `url(${c.url}) ${c.hotX} ${c.hotY}, default` : 'default';
});
const isOld = computed(() => picture.now.value !== undefined && picture.isOld);
const word = ref<InstanceType<typeof StageWord>>();
let stop: (() => void) | undefined;

onMounted(() => {
  view.begin();
  if (!canvas.value) return;
  stop = picture.showDisplay(props.display, canvas.value, {
    onSize: (width, height) => (size.value = { width, height }),
    onCursorShape: ({ width, height, hotX, hotY, rgba }) => {
      const shape = document.createElement('canvas');
      Object.assign(shape, { width, height });
      shape.getContext('2d')?.putImageData(new ImageData(rgba, width, height), 0, 0);
      cursor.value = { url: shape.toDataURL(), width, height, hotX, hotY };
    },
    onCursorAt: (x, y) => (cursorAt.value = { x, y }),
  });
});
onBeforeUnmount(() => {
  stop?.();
  hand.close();
  view.close();
});

const act = (what: InputAct) => input.act(props.display, what);
const clips = props.session.tool(clipboardTool);
const mayPaste = () => clips.mayGive.value;
const typed = new StageKeys({
  ...{ field: keys, preferences: props.session.preferences, missed: input.missed, isOpen, act },
  release: () => input.release(),
  clips: { mayPaste, copyPressed: () => clips.copyPressed() },
  onLeader: () => input.onLeader(),
  onTakenBySystem: () => input.explain('system-keys'),
  missedMore: () => input.missedMore(),
});
const handlePaste = useStagePaste({
  isOpen,
  act,
  mayPaste,
  paste: (data) => clips.paste(data),
  isControlDown: typed.isControlDown,
});
const { isControlDown, beforeButton } = typed;
const hand = new StagePointer({
  ...{ canvas, size, view, act, isOpen, isControlDown, beforeButton, preferences: props.session.preferences },
  isWorking: () => isWorking.value,
  wantsToWork: () => {
    if (input.mayWork.value) input.open();
    else word.value?.offerWork();
  },
  onTouch: () => input.explain('touch'),
});

const stroke = useStagePen(
  pen,
  () => props.display,
  (event) => {
    const at = hand.pointOf(event);
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
  if (!isDrawing()) {
    keys.value?.focus({ preventScroll: true });
    hand.handleButton(event, isDown);
    return;
  }
  if (event.button !== 0) return;
  if (isDown) canvas.value?.setPointerCapture(event.pointerId);
  (isDown ? stroke.begin : stroke.end)(event);
}
function handleMove(event: PointerEvent): void {
  pointerAt.value = hand.pointOf(event);
  if (isDrawing()) stroke.goOn(event);
  else hand.handleMove(event);
}
function handleLeave(): void {
  pointerAt.value = undefined;
  view.stopEdge();
}
</script>

<template>
  <div
    ref="room"
    class="room"
    :class="{ scrolls: scale !== 'fit' }"
    :tabindex="isLarger && !isWorking ? 0 : undefined"
    :role="isLarger && !isWorking ? 'group' : undefined"
    :aria-label="isLarger && !isWorking ? w.picture.partShown : undefined"
  >
    <div
      ref="screen"
      class="screen"
      :class="{ working: isWorking, old: isOld }"
      :style="{ width: `${shown.width}px`, height: `${shown.height}px`, cursor: ownCursor }"
      @pointerdown.prevent="handleButton($event, true)"
      @pointerup.prevent="handleButton($event, false)"
      @pointermove="handleMove"
      @pointercancel="hand.handleCancel($event)"
      @pointerleave="handleLeave"
      @wheel="hand.handleWheel($event)"
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
      <StageLens
        v-if="picture.lens.value > 1 && pointerAt && canvas"
        :source="canvas"
        :at="pointerAt"
        :factor="factor"
        :times="picture.lens.value"
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
      @keydown="typed.handleKey($event, true)"
      @keyup="typed.handleKey($event, false)"
      @compositionend="typed.handleComposed($event)"
      @input="typed.handleTyped($event)"
      @paste="inBackground('pasting', handlePaste($event))"
      @blur="typed.handleBlur()"
    />
    <NButton
      v-if="isLarger && isWorking"
      class="hand"
      size="tiny"
      :type="isMoving ? 'primary' : 'default'"
      :aria-pressed="isMoving"
      data-test="move-picture"
      @click="isMoving = !isMoving"
      >{{ w.picture.movePicture }}</NButton
    >
    <StageWord ref="word" :session="session" />
  </div>
</template>

<style scoped>
.room {
  position: relative;
  width: 100%;
  height: 100%;
  overflow: hidden;
  display: grid;
  place-items: safe center;
  background: var(--stage);
  isolation: isolate;
}
.room.scrolls {
  overflow: auto;
}
.screen {
  position: relative;
  touch-action: none;
  line-height: 0;
}
.screen.working {
  outline: 3px solid var(--accent);
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
  box-shadow: inset 0 0 0 3px var(--accent);
}
.hand {
  position: sticky;
  left: calc(100% - 9rem);
  bottom: 0.6rem;
}
</style>
