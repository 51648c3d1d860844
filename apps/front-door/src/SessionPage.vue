<script setup lang="ts">
import { inBackground } from '@porch/client';
import { isOver } from '@porch/core';
import type { DoorView } from '@porch/wire';
import { computed, onMounted, onUnmounted, ref, shallowRef, watch } from 'vue';
import { CustomerSession } from './customer-session.ts';
import { goTo, inWords, rest } from './door.ts';
import SessionBegin from './SessionBegin.vue';
import SessionNow from './SessionNow.vue';
import { hasChosenLanguage, speak, w } from './words/index.ts';

const door = shallowRef<DoorView>();
const session = shallowRef<CustomerSession>();
const trouble = ref('');
const state = computed(() => session.value?.state.value);
/** Counts the times that they came in: what stood on the page belongs to the time before. */
const stay = ref(0);
function comeIn(): void {
  session.value?.close();
  session.value = new CustomerSession(rest);
  stay.value++;
}

onMounted(async () => {
  try {
    door.value = await rest.door();
    // Who asked for help in a language is spoken to in it, unless they chose another one here.
    if (!hasChosenLanguage() && door.value.language !== 'en')
      inBackground('fetching the words', speak(door.value.language, false));
    comeIn();
  } catch (error) {
    trouble.value = inWords(error);
  }
});
onUnmounted(() => session.value?.close());
watch(
  () => session.value?.hasLostItsPlace.value,
  (hasLost) => hasLost && comeIn(),
);
watch(state, (s) => {
  if (s && isOver(s)) goTo('/receipt');
});
</script>

<template>
  <main v-if="trouble || session?.failed.value">
    <h1>{{ w.session.notHere }}</h1>
    <p class="trouble" role="alert">{{ trouble || session?.failed.value }}</p>
    <p>
      <a class="button" href="/" @click.prevent="goTo('/')">{{ w.code.type }}</a>
    </p>
  </main>
  <main v-else-if="!door || !session || session.status.value === 'connecting'">
    <p role="status">{{ w.session.opening }}</p>
  </main>
  <SessionBegin v-else-if="!state?.hasAccepted" :key="`begin ${stay}`" :door="door" :session="session" />
  <SessionNow v-else :key="`now ${stay}`" :door="door" :session="session" />
</template>
