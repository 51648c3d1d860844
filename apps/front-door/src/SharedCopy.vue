<script setup lang="ts">
import { inUnit, markColour, markPath, strokePx, type ShownMark } from '@porch/client';
import { MAX_MARK_POINTS, type Mark } from '@porch/wire';
import { computed, ref, shallowRef, watch } from 'vue';
import type { CustomerSession } from './customer-session.ts';
import { w } from './words/index.ts';

/*
 * A copy of what this page shows, with what technicians point at and draw. The person here draws on it, too; everybody who
 * looks sees it.
 */
const props = defineProps<{ session: CustomerSession }>();
const { stream, marks } = props.session.share;
const video = ref<HTMLVideoElement>();
const proportion = ref(16 / 9);
const written = computed(() => marks.value.filter(({ mark }) => mark.text));
const left = ({ mark }: ShownMark) => (mark.points[0]?.x ?? 0) * 100;
const top = ({ mark }: ShownMark) => (mark.points[0]?.y ?? 0) * 100;
const names = computed(() => {
  const { seat: mine } = props.session.connection;
  const seats = new Set(marks.value.map((m) => m.seat).filter((seat) => seat !== mine));
  const there = Object.values(props.session.state.value.participants);
  return [...seats].flatMap((seat) => {
    const name = there.find((p) => p.seat === seat)?.name;
    return name ? [{ seat, name }] : [];
  });
});
watch(
  [video, stream],
  ([element, now]) => {
    if (element && element.srcObject !== now) element.srcObject = now ?? null;
  },
  { immediate: true },
);
const tools = ['pen', 'arrow', 'box'] as const;
const tool = ref<(typeof tools)[number]>();
const drawing = shallowRef<Mark>();
/** Nearer points than this say nothing. */
const LEAST_STEP = 0.004;

function placeOf(event: PointerEvent): Mark['points'][number] {
  const box = (event.currentTarget as Element).getBoundingClientRect();
  return { x: inUnit((event.clientX - box.left) / box.width), y: inUnit((event.clientY - box.top) / box.height) };
}
function begin(event: PointerEvent): void {
  if (!tool.value || event.button !== 0) return;
  (event.currentTarget as Element).setPointerCapture(event.pointerId);
  drawing.value = { kind: tool.value, points: [placeOf(event)] };
}
function goOn(event: PointerEvent): void {
  const now = drawing.value;
  const here = placeOf(event);
  const last = now?.points.at(-1);
  if (!now || !last) return;
  if (now.kind !== 'pen') drawing.value = { ...now, points: [...now.points.slice(0, 1), here] };
  else if (Math.hypot(here.x - last.x, here.y - last.y) > LEAST_STEP && now.points.length < MAX_MARK_POINTS)
    drawing.value = { ...now, points: [...now.points, here] };
}
function end(event: PointerEvent): void {
  goOn(event);
  const done = drawing.value;
  drawing.value = undefined;
  if (done && done.points.length > 1) props.session.share.draw(done);
}
const ownColour = markColour(props.session.connection.seat);

function measure(): void {
  if (video.value?.videoHeight) proportion.value = video.value.videoWidth / video.value.videoHeight;
}
</script>

<template>
  <section class="card" aria-labelledby="copy" data-test="copy">
    <h2 id="copy">{{ w.session.copyTitle }}</h2>
    <p v-for="one in names" :key="one.seat">
      <span class="dot" :style="{ background: markColour(one.seat) }" aria-hidden="true" />
      {{ w.session.points({ name: one.name }) }}
    </p>
    <div class="picture" :style="{ aspectRatio: proportion }">
      <video ref="video" autoplay muted playsinline aria-hidden="true" @loadedmetadata="measure" @resize="measure" />
      <svg viewBox="0 0 1000 1000" preserveAspectRatio="none" aria-hidden="true">
        <path
          v-for="shown in marks"
          :key="shown.key"
          :d="markPath(shown.mark, proportion)"
          :stroke="markColour(shown.seat)"
          :stroke-width="strokePx(shown.mark)"
          :class="shown.mark.kind"
          data-test="mark"
        />
        <path v-if="drawing" :d="markPath(drawing, proportion)" :stroke="ownColour" :stroke-width="strokePx(drawing)" />
      </svg>
      <p
        v-for="shown in written"
        :key="shown.key"
        class="written"
        data-test="written"
        :style="{ left: `${left(shown)}%`, top: `${top(shown)}%`, background: markColour(shown.seat) }"
      >
        {{ shown.mark.text }}
      </p>
      <div
        class="surface"
        data-test="draw-surface"
        :class="{ on: tool }"
        @pointerdown.prevent="begin"
        @pointermove="goOn"
        @pointerup.prevent="end"
        @pointercancel="drawing = undefined"
      />
    </div>
    <p id="draw-here" class="quiet">{{ w.session.drawHere }}</p>
    <div class="row" role="group" aria-labelledby="draw-here">
      <button
        v-for="one in tools"
        :key="one"
        type="button"
        class="small"
        :aria-pressed="tool === one"
        :data-test="`draw-${one}`"
        @click="tool = tool === one ? undefined : one"
      >
        {{ w.session.drawTools[one] }}
      </button>
      <button v-if="tool" type="button" class="small" @click="tool = undefined">{{ w.session.drawOff }}</button>
      <template v-if="marks.length">
        <button type="button" class="small" data-test="draw-undo" @click="session.share.unmark('last')">
          {{ w.session.drawUndo }}
        </button>
        <button type="button" class="small" data-test="draw-clear" @click="session.share.unmark('everybodys')">
          {{ w.session.drawClear }}
        </button>
      </template>
    </div>
  </section>
</template>

<style scoped>
.picture {
  position: relative;
  width: 100%;
}
video,
svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
video {
  object-fit: fill;
  background: #1d2b2e;
}
path {
  fill: none;
  vector-effect: non-scaling-stroke;
  stroke-linecap: round;
  stroke-linejoin: round;
}
path.marker {
  opacity: 0.4;
}
.written {
  position: absolute;
  margin: 0;
  padding: 0.1rem 0.5rem;
  color: #ffffff;
  font-weight: 600;
  pointer-events: none;
}
.surface {
  position: absolute;
  inset: 0;
}
.surface.on {
  cursor: crosshair;
  touch-action: none;
}
.row button[aria-pressed='true'] {
  outline: 3px solid currentColor;
  outline-offset: -3px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
}
.dot {
  display: inline-block;
  width: 0.8rem;
  height: 0.8rem;
  border-radius: 50%;
}
</style>
