<script setup lang="ts">
import { participantAt } from '@porch/core';
import SoundLevel from '@porch/pages/SoundLevel.vue';
import { computed } from 'vue';
import type { CustomerSession } from './customer-session.ts';
import { w } from './words/index.ts';

/* The microphone of this page, while somebody may hear it: whether it is open, and one press to mute it. */
const props = defineProps<{ session: CustomerSession }>();
const { voice } = props.session.share;
const now = voice.now;
const says = computed(() => {
  const { open, muted, none } = w.value.speaking;
  return { open, muted, none }[now.value?.microphone ?? 'none'];
});
const others = computed(() =>
  (now.value?.others ?? []).map(({ seat, microphone }) => {
    const name = participantAt(props.session.state.value, seat)?.name ?? w.value.session.technician;
    return w.value.speaking.is[microphone]({ who: name });
  }),
);
</script>

<template>
  <section v-if="now" class="card asks" aria-labelledby="speaking" data-test="speaking">
    <h2 id="speaking">{{ says }}</h2>
    <SoundLevel v-if="now.microphone === 'open'" :peak="now.ownPeak" />
    <p v-for="one in others" :key="one">{{ one }}</p>
    <button v-if="now.microphone !== 'none'" data-test="mute" @click="voice.toggleMute()">
      {{ now.microphone === 'muted' ? w.speaking.unmute : w.speaking.mute }}
    </button>
  </section>
</template>
