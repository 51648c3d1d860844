<script setup lang="ts">
import { clockSince } from '@porch/client';
import { computed, onBeforeUnmount, shallowRef } from 'vue';
import { customersName } from '../../customers-name.ts';
import { speech, w } from '../../words/index.ts';
import type { ConsoleSession } from '../console-ability.ts';

/* Over the stage: that they type a password, and why there is no picture meanwhile, or a plain patch in it. */
const props = defineProps<{ session: ConsoleSession }>();
const CLOCK_MS = 500;
const typing = computed(() => props.session.state.value.slices.passwords.typing);
/** By the service's clock. */
const nowMs = shallowRef(0);
const timer = setInterval(() => {
  if (typing.value) nowMs.value = props.session.connection.serviceNowMs;
}, CLOCK_MS);
onBeforeUnmount(() => clearInterval(timer));
const who = computed(() => speech.value.capital(customersName(props.session.state.value)));
const clock = computed(() => clockSince(nowMs.value - (typing.value?.sinceMs ?? 0)));
</script>

<template>
  <p v-if="typing" class="typing" :class="typing.care" role="status" :data-test="`password-${typing.care}`">
    <template v-if="typing.care === 'covered'">{{ w.passwords.covered({ who }) }}</template>
    <!-- Read aloud once, and not each second. -->
    <template v-else>
      {{ w.passwords.paused({ who }) }}
      <b class="tabular" aria-live="off" data-test="password-clock">{{ clock }}</b>
    </template>
  </p>
</template>

<style scoped>
.typing {
  position: absolute;
  inset: 0.6rem 0.6rem auto;
  margin: 0;
  padding: 0.5rem 0.8rem;
  text-align: center;
  border: 2px solid var(--line);
  border-radius: 8px;
  background: var(--card);
}
.paused {
  border-color: var(--amber);
}
</style>
