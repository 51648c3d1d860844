<script setup lang="ts">
import { clockSince } from '@porch/client';
import { computed, onBeforeUnmount, shallowRef } from 'vue';
import { customersName } from '../../customers-name.ts';
import { speech, w } from '../../words/index.ts';
import StageNote from '../StageNote.vue';
import type { ConsoleSession } from '../console-ability.ts';

/* Over the stage: that they type a password, and why there is no picture meanwhile, or a plain patch in it. */
const props = defineProps<{ session: ConsoleSession }>();
const CLOCK_MS = 500;
const typing = computed(() => {
  const { passwords, presence } = props.session.state.value.slices;
  // Something private is more than a password, and is said in the same place.
  return presence.privateAt.length ? undefined : passwords.typing;
});
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
  <StageNote v-if="typing" :is-waiting="typing.care === 'paused'" :data-test="`password-${typing.care}`">
    <template v-if="typing.care === 'covered'">{{ w.passwords.covered({ who }) }}</template>
    <!-- Read aloud once, and not each second. -->
    <template v-else>
      {{ w.passwords.paused({ who }) }}
      <b class="tabular" aria-live="off" data-test="password-clock">{{ clock }}</b>
    </template>
  </StageNote>
</template>
