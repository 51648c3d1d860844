<script setup lang="ts">
import { ScreenshotRefused, type TakenScreenshot } from '@porch/client';
import type { KeptScreenshot } from '@porch/wire';
import { NButton } from 'naive-ui';
import { computed, nextTick, ref, shallowRef, watch } from 'vue';
import { inWords } from '../../in-words.ts';
import { clock } from '../../times.ts';
import type { ConsoleSession } from '../console-ability.ts';
import { blobSink } from '../files/blob-sink.ts';
import { pictureTool } from '../picture/tool.ts';
import { base64Of, boxBetween, draw, imageOf, pngOf, type Box } from './screenshot-canvas.ts';
import { screenshotTool } from './tool.ts';
import { reasonInWords, w } from '../../words/index.ts';

/* Has a screenshot taken at the source; what is blanked and marked here is in it before it goes anywhere. */
const props = defineProps<{ session: ConsoleSession }>();
const { technician } = props.session.tool(screenshotTool);
const { view } = props.session.tool(pictureTool);
const taken = shallowRef<TakenScreenshot>();
const image = shallowRef<ImageData>();
const boxes = shallowRef<readonly Box[]>([]);
const kind = ref<Box['kind']>('blank');
const canvas = ref<HTMLCanvasElement>();
const isBusy = ref(false);
const trouble = ref('');
const done = ref('');
const kept = shallowRef<readonly KeptScreenshot[]>([]);
const drawnFrom = shallowRef<{ x: number; y: number }>();
const drawing = shallowRef<Box>();
const shown = computed(() => [...boxes.value, ...(drawing.value ? [drawing.value] : [])]);

async function attempt(work: () => Promise<string>): Promise<void> {
  trouble.value = '';
  done.value = '';
  isBusy.value = true;
  try {
    done.value = await work();
  } catch (error) {
    trouble.value =
      error instanceof ScreenshotRefused
        ? w.value.screenshot.notDone({ why: reasonInWords(error.message) })
        : inWords(error);
  } finally {
    isBusy.value = false;
  }
}
props.session.rest.screenshots(props.session.id).then(
  (rows) => (kept.value = rows),
  (error: unknown) => (trouble.value = inWords(error)),
);

const take = () =>
  attempt(async () => {
    const one = await technician.take(view.value.display);
    taken.value = one;
    boxes.value = [];
    image.value = imageOf(one);
    return w.value.screenshot.isTaken;
  });
watch([image, shown], async () => {
  await nextTick();
  const context = canvas.value?.getContext('2d');
  if (context && image.value) draw(context, image.value, shown.value);
});

function pointOf(event: PointerEvent): { x: number; y: number } {
  const { left, top, width, height } = (event.target as HTMLElement).getBoundingClientRect();
  const of = image.value ?? { width: 1, height: 1 };
  return { x: ((event.clientX - left) / width) * of.width, y: ((event.clientY - top) / height) * of.height };
}
function begin(event: PointerEvent): void {
  canvas.value?.setPointerCapture(event.pointerId);
  drawnFrom.value = pointOf(event);
}
function move(event: PointerEvent): void {
  if (drawnFrom.value) drawing.value = boxBetween(kind.value, drawnFrom.value, pointOf(event));
}
function end(): void {
  const box = drawing.value;
  if (box && box.width > 1 && box.height > 1) boxes.value = [...boxes.value, box];
  drawing.value = undefined;
  drawnFrom.value = undefined;
}
/** For whoever has no mouse: half of it at once. */
function addHalf(isUpper: boolean): void {
  const { width, height } = image.value ?? { width: 0, height: 0 };
  const half = Math.round(height / 2);
  boxes.value = [...boxes.value, { kind: kind.value, x: 0, y: isUpper ? 0 : half, width, height: half }];
}

async function picture(): Promise<{ id: string; png: Uint8Array }> {
  if (!taken.value || !canvas.value) throw new Error('nothing was taken');
  return { id: taken.value.id, png: await pngOf(canvas.value) };
}
const saveHere = () =>
  attempt(async () => {
    const { id, png } = await picture();
    const sink = blobSink(`screenshot-${id.slice(0, 8)}.png`);
    await sink.write(png);
    await sink.finish();
    await technician.tellKept(id, png);
    return w.value.screenshot.isSaved;
  });
const keepWithSession = () =>
  attempt(async () => {
    const { id, png } = await picture();
    kept.value = await props.session.rest.keepScreenshot(props.session.id, { screenshotId: id, png: base64Of(png) });
    return w.value.screenshot.isKept;
  });
const give = () =>
  attempt(async () => {
    const { id, png } = await picture();
    await technician.give(id, png);
    return w.value.screenshot.isGiven;
  });
</script>

<template>
  <section class="screenshot" :aria-label="w.screenshot.title">
    <h2>{{ w.screenshot.title }}</h2>
    <p class="quiet">{{ w.screenshot.about }}</p>
    <NButton size="small" type="primary" :loading="isBusy && !taken" data-test="take-screenshot" @click="take">{{
      taken ? w.screenshot.takeAnother : w.screenshot.takeOne
    }}</NButton>
    <template v-if="taken">
      <p class="row" role="group" :aria-label="w.screenshot.boxes">
        <NButton
          v-for="one in ['blank', 'mark'] as const"
          :key="one"
          size="tiny"
          :aria-pressed="kind === one"
          :type="kind === one ? 'primary' : 'default'"
          @click="kind = one"
          >{{ one === 'blank' ? w.screenshot.blank : w.screenshot.mark }}</NButton
        >
        <NButton size="tiny" data-test="screenshot-upper" @click="addHalf(true)">{{ w.screenshot.upperHalf }}</NButton>
        <NButton size="tiny" @click="addHalf(false)">{{ w.screenshot.lowerHalf }}</NButton>
        <NButton size="tiny" :disabled="!boxes.length" @click="boxes = boxes.slice(0, -1)">{{
          w.screenshot.undo
        }}</NButton>
      </p>
      <canvas
        ref="canvas"
        :width="taken.width"
        :height="taken.height"
        role="img"
        :aria-label="w.screenshot.canvas({ width: `${taken.width}`, height: `${taken.height}`, boxes: boxes.length })"
        data-test="screenshot-canvas"
        @pointerdown.prevent="begin"
        @pointermove="move"
        @pointerup="end"
      />
      <p class="row">
        <NButton size="small" :disabled="isBusy" data-test="screenshot-save" @click="saveHere">{{
          w.screenshot.saveHere
        }}</NButton>
        <NButton size="small" :disabled="isBusy" data-test="screenshot-keep" @click="keepWithSession">{{
          w.screenshot.keepWith
        }}</NButton>
        <NButton size="small" :disabled="isBusy" data-test="screenshot-give" @click="give">{{
          w.screenshot.give
        }}</NButton>
      </p>
    </template>
    <p v-if="done" role="status" data-test="screenshot-done">{{ done }}</p>
    <p v-if="trouble" role="alert" class="trouble">{{ trouble }}</p>
    <template v-if="kept.length">
      <h2>{{ w.screenshot.inRecords }}</h2>
      <ul>
        <li v-for="one in kept" :key="one.screenshotId">
          <a :href="`/api/v1/sessions/${session.id}/screenshots/${one.screenshotId}`" target="_blank" rel="noopener">{{
            w.screenshot.of({ time: clock(one.keptAtMs) })
          }}</a>
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
.screenshot {
  padding: 0.6rem;
}
canvas {
  width: 100%;
  border: 1px solid var(--line);
  cursor: crosshair;
  touch-action: none;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem;
}
.trouble {
  color: var(--red);
}
ul {
  margin: 0;
  padding-left: 1.2rem;
}
</style>
