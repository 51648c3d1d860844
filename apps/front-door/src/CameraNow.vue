<script setup lang="ts">
import { participantAt } from '@porch/core';
import { computed, ref, watch } from 'vue';
import type { CustomerSession } from './customer-session.ts';
import { speech, w } from './words/index.ts';

/* What this page's camera sees, while somebody looks through it: whoever holds it sees what they see. */
const props = defineProps<{ session: CustomerSession }>();
const { camera } = props.session.share;
const { now, stream, hasOther } = camera;
const video = ref<HTMLVideoElement>();
watch(
  [video, stream],
  ([element, shown]) => {
    if (element && element.srcObject !== shown) element.srcObject = shown ?? null;
  },
  { immediate: true },
);
const who = computed(() =>
  speech.value.list(
    now.value.viewers.map((seat) => participantAt(props.session.state.value, seat)?.name ?? w.value.session.technician),
  ),
);
</script>

<template>
  <section v-if="now.is" class="card asks" aria-labelledby="camera" data-test="camera">
    <template v-if="now.is === 'none'">
      <h2 id="camera">{{ w.camera.closed }}</h2>
      <p role="alert">{{ w.camera.none }}</p>
      <button data-test="camera-again" @click="camera.wish('try-again')">{{ w.camera.again }}</button>
    </template>
    <template v-else-if="now.is === 'opening'">
      <h2 id="camera">{{ w.camera.begins }}</h2>
      <p role="status">{{ w.camera.opening }}</p>
    </template>
    <template v-else>
      <h2 id="camera">{{ w.camera.title }}</h2>
      <p v-if="who">{{ w.camera.sees({ who }) }}</p>
      <video ref="video" autoplay muted playsinline :aria-label="w.camera.preview" />
      <p v-if="now.taken" role="status" data-test="camera-taken">{{ w.camera.taken({ count: now.taken }) }}</p>
      <p v-if="hasOther || now.hasLight" class="answers">
        <button v-if="hasOther" data-test="camera-other" @click="camera.takeOther()">{{ w.camera.other }}</button>
        <button v-if="now.hasLight" :aria-pressed="now.isLightOn" @click="camera.wish('light')">
          {{ now.isLightOn ? w.camera.lightOff : w.camera.light }}
        </button>
      </p>
    </template>
  </section>
</template>

<style scoped>
video {
  width: 100%;
  max-height: 60vh;
  background: #000;
  border-radius: 4px;
}
.answers {
  display: flex;
  flex-wrap: wrap;
  gap: 0.6rem;
}
</style>
