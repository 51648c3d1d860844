<script setup lang="ts">
import { inBackground } from '@porch/client';
import { readCode } from '@porch/core';
import { spokenLanguage } from '@porch/words';
import type { DeskView } from '@porch/wire';
import { computed, onMounted, ref, shallowRef } from 'vue';
import { askDesk } from './door.ts';
import { speak, speech, w, waitInWords } from './words/index.ts';

/* Inside somebody else's page: no cookie is of use here, so everything goes on in a window of the desk's own. */
const desk = shallowRef<DeskView>();
const typed = ref('');
const reading = computed(() => readCode(typed.value));
const now = computed(() => {
  const d = desk.value;
  if (!d) return '';
  if (!d.isOpen) return w.value.help.closed({ when: speech.value.weekdayAndTime(d.opensAtMs ?? 0) });
  if (d.isFull) return w.value.help.full;
  return d.estimate ? waitInWords(d.estimate) : '';
});
onMounted(async () => {
  const wanted = spokenLanguage(/language=(\w+)/.exec(location.hash)?.[1] ?? '');
  if (wanted) inBackground('fetching the words', speak(wanted, false));
  desk.value = await askDesk().catch(() => undefined); // The box works without knowing how long it takes.
});
function go(): void {
  // In the fragment, which no server on the way gets to see.
  if (reading.value.kind === 'code') window.open(`/#code=${reading.value.digits}`, '_blank', 'noopener');
}
</script>

<template>
  <main class="box">
    <p v-if="desk">
      <b>{{ desk.deskName }}</b>
    </p>
    <p class="quiet">{{ now }}</p>
    <p>
      <a class="button first" href="/help" target="_blank" rel="noopener">{{ w.code.ask }}</a>
    </p>
    <form @submit.prevent="go">
      <label for="code">{{ w.code.label }}</label>
      <input
        id="code"
        v-model="typed"
        inputmode="numeric"
        autocomplete="off"
        maxlength="12"
        :aria-invalid="reading.kind === 'mistyped'"
      />
      <button class="small" :disabled="reading.kind !== 'code'">{{ w.code.go }}</button>
    </form>
  </main>
</template>

<style scoped>
.box {
  padding: 0.6rem;
  font-size: 0.95rem;
}
.box p {
  margin: 0.2rem 0 0.5rem;
}
form {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0.3rem 0.5rem;
  align-items: center;
}
label {
  grid-column: 1 / -1;
  margin: 0;
}
</style>
