<script setup lang="ts">
import { inUnit, markColour } from '@porch/client';
import { MAX_MARK_TEXT } from '@porch/wire';
import { NButton } from 'naive-ui';
import { computed, nextTick, ref, shallowRef, watch } from 'vue';
import { w } from '../words/index.ts';
import { bytesOf, drawEdited, editKinds, goneOn, isSomething, type Edit, type EditKind, type Place } from './edits.ts';

/*
 * A still picture that is blanked and marked before it goes anywhere: with a mouse, a finger or a pen; or by keys, with a
 * cross that arrows move and Enter sets. What it is drawn into is what is kept.
 */
const props = defineProps<{ image: ImageData; seat: number; label: string }>();
const edits = shallowRef<readonly Edit[]>([]);
const kind = ref<EditKind>('blank');
const canvas = ref<HTMLCanvasElement>();
const field = ref<HTMLInputElement>();
const isLarge = ref(false);
const drawing = shallowRef<Edit>();
const writingAt = shallowRef<Place>();
const words = ref('');
const isToBeWritten = ref(false);
/** Where the keys are; undefined while a mouse draws. */
const cross = shallowRef<Place>();
const shown = computed(() => [...edits.value, ...(drawing.value ? [drawing.value] : [])]);
const STEP = 0.02;
const SMALL_STEP = 0.002;

watch(
  () => props.image,
  () => {
    edits.value = [];
    drawing.value = writingAt.value = undefined;
  },
);
watch(
  [() => props.image, shown],
  async () => {
    await nextTick();
    const context = canvas.value?.getContext('2d');
    if (context) drawEdited(context, props.image, shown.value, markColour(props.seat));
  },
  { immediate: true },
);

watch(field, (input) => {
  if (isToBeWritten.value) input?.focus();
  isToBeWritten.value = false;
});

function placeOf(event: PointerEvent): Place {
  const { left, top, width, height } = (event.target as HTMLElement).getBoundingClientRect();
  return { x: (event.clientX - left) / width, y: (event.clientY - top) / height };
}
function set(at: Place): void {
  if (kind.value === 'text') {
    writingAt.value = at;
    words.value = '';
    isToBeWritten.value = true;
  } else drawing.value = { kind: kind.value, points: [at] };
}
function end(): void {
  const edit = drawing.value;
  drawing.value = undefined;
  if (edit && isSomething(edit)) edits.value = [...edits.value, edit];
}
function write(): void {
  const at = writingAt.value;
  writingAt.value = undefined;
  const edit: Edit | undefined = at && { kind: 'text', points: [at], text: words.value.trim() };
  if (edit && isSomething(edit)) edits.value = [...edits.value, edit];
  canvas.value?.focus();
}

function begin(event: PointerEvent): void {
  if (event.button !== 0) return;
  cross.value = undefined;
  canvas.value?.setPointerCapture(event.pointerId);
  set(placeOf(event));
}
function move(event: PointerEvent): void {
  if (drawing.value && !cross.value) drawing.value = goneOn(drawing.value, placeOf(event));
}

const moves: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
function key(event: KeyboardEvent): void {
  const way = moves[event.key];
  const at = cross.value ?? { x: 0.5, y: 0.5 };
  if (way) {
    const step = event.shiftKey ? SMALL_STEP : STEP;
    cross.value = { x: inUnit(at.x + way[0] * step), y: inUnit(at.y + way[1] * step) };
    if (drawing.value) drawing.value = goneOn(drawing.value, cross.value);
  } else if (event.key === 'Enter') {
    cross.value = at;
    if (drawing.value) end();
    else set(at);
  } else if (event.key === 'Escape' && drawing.value) drawing.value = undefined;
  else return;
  event.preventDefault();
  event.stopPropagation();
}
function addHalf(isUpper: boolean): void {
  const points = [
    { x: 0, y: isUpper ? 0 : 0.5 },
    { x: 1, y: isUpper ? 0.5 : 1 },
  ];
  edits.value = [...edits.value, { kind: kind.value === 'box' ? 'box' : 'blank', points }];
}

defineExpose({
  /** Nothing was done to it yet. */
  isUntouched: () => edits.value.length === 0,
  bytes: (type: 'image/png' | 'image/jpeg'): Promise<Uint8Array> => {
    if (!canvas.value) throw new Error('there is no picture');
    return bytesOf(canvas.value, type);
  },
});
</script>

<template>
  <figure :class="{ 'over-stage': isLarge }" @keydown.esc="isLarge = false">
    <p class="row" role="group" :aria-label="w.editing.tools">
      <NButton
        v-for="one in editKinds"
        :key="one"
        size="tiny"
        :aria-pressed="kind === one"
        :type="kind === one ? 'primary' : 'default'"
        :data-test="`edit-${one}`"
        @click="kind = one"
        >{{ w.editing.kinds[one] }}</NButton
      >
      <NButton size="tiny" data-test="screenshot-upper" @click="addHalf(true)">{{ w.editing.upperHalf }}</NButton>
      <NButton size="tiny" @click="addHalf(false)">{{ w.editing.lowerHalf }}</NButton>
      <NButton size="tiny" :disabled="!edits.length" data-test="edit-undo" @click="edits = edits.slice(0, -1)">{{
        w.editing.undo
      }}</NButton>
      <NButton size="tiny" :disabled="!edits.length" @click="edits = []">{{ w.editing.clear }}</NButton>
      <NButton size="tiny" :aria-pressed="isLarge" data-test="edit-large" @click="isLarge = !isLarge">{{
        isLarge ? w.editing.small : w.editing.large
      }}</NButton>
    </p>
    <div class="sheet">
      <canvas
        ref="canvas"
        :width="image.width"
        :height="image.height"
        tabindex="0"
        role="application"
        :aria-label="`${label}. ${w.editing.canvas({ edits: edits.length })}`"
        data-test="screenshot-canvas"
        @pointerdown.prevent="begin"
        @pointermove="move"
        @pointerup="end"
        @pointercancel="drawing = undefined"
        @keydown="key"
      />
      <span
        v-if="cross"
        class="cross"
        aria-hidden="true"
        :style="{ left: `${cross.x * 100}%`, top: `${cross.y * 100}%` }"
      />
    </div>
    <form v-if="writingAt" class="row" @submit.prevent="write">
      <input
        ref="field"
        v-model="words"
        :maxlength="MAX_MARK_TEXT"
        :aria-label="w.editing.words"
        data-test="edit-words"
        @keydown.esc.stop="writingAt = undefined"
      />
      <NButton size="tiny" attr-type="submit">{{ w.editing.write }}</NButton>
    </form>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}
.sheet {
  position: relative;
  line-height: 0;
}
canvas {
  width: 100%;
  border: 1px solid var(--line);
  cursor: crosshair;
  touch-action: none;
}
canvas:focus-visible {
  outline: 3px solid var(--amber);
}
.cross {
  position: absolute;
  width: 18px;
  height: 18px;
  margin: -9px;
  border: 2px solid #fff;
  outline: 2px solid #000;
  border-radius: 50%;
  pointer-events: none;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem;
  margin: 0.4rem 0;
}
.over-stage .sheet {
  width: fit-content;
  margin: 0 auto;
}
.over-stage canvas {
  width: auto;
  max-width: 100%;
  max-height: calc(100vh - 9rem);
}
</style>
