<script setup lang="ts">
import { markColour, markPath, strokePx, type ShownMark } from '@porch/client';
import { MAX_MARK_TEXT, type Mark } from '@porch/wire';
import { computed, nextTick, ref, watch } from 'vue';
import { w } from '../../words/index.ts';

/* Marks over the picture on the stage, as large as they are on the other screen, and the field for what is written. */
const props = defineProps<{
  marks: readonly ShownMark[];
  /** Not let go yet. */
  drawing: Mark | undefined;
  writingAt: Mark['points'][number] | undefined;
  seat: number;
  /** Width over height. */
  proportion: number;
  /** Pixels here for one over there. */
  factor: number;
  nameOf(seat: number): string;
}>();
const emit = defineEmits<{ write: [text: string] }>();
const words = ref('');
const field = ref<HTMLInputElement>();
watch(
  () => props.writingAt,
  async (at) => {
    words.value = '';
    if (!at) return;
    await nextTick();
    field.value?.focus();
  },
);
const written = computed(() => props.marks.filter(({ mark }) => mark.text));
const strokeOf = (mark: Mark) => strokePx(mark) * props.factor;
/** Others have their names beside their newest one. */
const named = computed(() => [
  ...new Map(props.marks.filter(({ seat }) => seat !== props.seat).map((one) => [one.seat, one])).values(),
]);
const at = (place: Mark['points'][number] | undefined) => ({
  left: `${(place?.x ?? 0) * 100}%`,
  top: `${(place?.y ?? 0) * 100}%`,
});
</script>

<template>
  <svg v-if="marks.length || drawing" viewBox="0 0 1000 1000" preserveAspectRatio="none" aria-hidden="true">
    <path
      v-for="one in marks"
      :key="one.key"
      :class="one.mark.kind"
      :d="markPath(one.mark, proportion)"
      :stroke="markColour(one.seat)"
      :stroke-width="strokeOf(one.mark)"
      data-test="mark"
    />
    <path
      v-if="drawing"
      :d="markPath(drawing, proportion)"
      :stroke="markColour(seat)"
      :stroke-width="strokeOf(drawing)"
    />
  </svg>
  <p
    v-for="one in written"
    :key="one.key"
    class="label"
    :style="{ ...at(one.mark.points[0]), background: markColour(one.seat), fontSize: `${20 * factor}px` }"
  >
    {{ one.mark.text }}
  </p>
  <p
    v-for="one in named"
    :key="`name-${one.seat}`"
    class="label name"
    :style="{ ...at(one.mark.points.at(-1)), background: markColour(one.seat) }"
  >
    {{ nameOf(one.seat) }}
  </p>
  <input
    v-if="writingAt"
    ref="field"
    v-model="words"
    class="field"
    data-test="write-on-screen"
    :maxlength="MAX_MARK_TEXT"
    :aria-label="w.drawing.textLabel"
    :title="w.drawing.textHint"
    :style="at(writingAt)"
    @pointerdown.stop
    @pointerup.stop
    @keydown.enter="emit('write', words)"
    @keydown.esc="emit('write', '')"
    @blur="emit('write', '')"
  />
</template>

<style scoped>
svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
path {
  fill: none;
  vector-effect: non-scaling-stroke;
  stroke-linecap: round;
  stroke-linejoin: round;
}
.marker {
  opacity: 0.4;
}
.label {
  position: absolute;
  margin: 0;
  padding: 0.15em 0.4em;
  color: #ffffff;
  font-weight: 700;
  line-height: 1.25;
  white-space: nowrap;
  pointer-events: none;
}
.name {
  font-size: 13px;
  translate: 18px 18px;
}
.field {
  position: absolute;
  width: 16rem;
  padding: 0.3rem 0.5rem;
  font: inherit;
  line-height: 1.3;
  color: #1d2b2c;
  background: #faf6ec;
  border: 2px solid #0f3d44;
}
</style>
