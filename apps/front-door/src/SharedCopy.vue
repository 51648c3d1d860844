<script setup lang="ts">
import { markColour, markPath } from '@porch/client';
import { computed, ref, watch } from 'vue';
import type { CustomerSession } from './customer-session.ts';
import { w } from './words/index.ts';

/* A copy of what this page shows, with what technicians point at and draw: it is drawn here, and nowhere else. */
const props = defineProps<{ session: CustomerSession }>();
const { stream, marks } = props.session.share;
const video = ref<HTMLVideoElement>();
const proportion = ref(16 / 9);
const names = computed(() => {
  const seats = new Set(marks.value.map((m) => m.seat));
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
          :key="shown.id"
          :d="markPath(shown.mark, proportion)"
          :stroke="markColour(shown.seat)"
          data-test="mark"
        />
      </svg>
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
  stroke-width: 4px;
  vector-effect: non-scaling-stroke;
  stroke-linecap: round;
  stroke-linejoin: round;
}
.dot {
  display: inline-block;
  width: 0.8rem;
  height: 0.8rem;
  border-radius: 50%;
}
</style>
