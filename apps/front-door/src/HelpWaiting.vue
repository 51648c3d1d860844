<script setup lang="ts">
import type { EntryStatus } from '@porch/wire';
import { computed, ref } from 'vue';
import { Said } from '@porch/pages';
import { w, waitInWords } from './words/index.ts';

const props = defineProps<{ status: EntryStatus; topic: string; trouble: string }>();
const emit = defineEmits<{ say: [text: string]; leave: [] }>();
const words = ref('');
const wait = computed(() => waitInWords(props.status.estimate, 'more'));
function send(): void {
  const text = words.value.trim();
  if (!text) return;
  words.value = '';
  emit('say', text);
}
</script>

<template>
  <h1>{{ w.help.queued }}</h1>
  <section class="card asks" role="status">
    <p>
      <Said :of="w.help.place({ place: status.place })">
        <template #b="{ text }"
          ><b class="tabular" data-test="place">{{ text }}</b></template
        >
      </Said>
    </p>
    <p data-test="wait">{{ status.isBeingRead ? w.help.beingRead : wait }}</p>
    <p>{{ status.entry.callBack ? w.help.willCall({ number: status.entry.callBack }) : w.help.keepOpen }}</p>
  </section>
  <p class="quiet">{{ topic }}: {{ status.entry.description }}</p>
  <section class="card" aria-labelledby="meanwhile">
    <h2 id="meanwhile">{{ w.help.talk }}</h2>
    <ul aria-live="polite" data-test="queue-chat">
      <li v-for="(m, i) in status.entry.messages" :key="i">
        <b>{{ m.isDesk ? m.name : w.help.you }}</b><br />{{ m.text }}
      </li>
    </ul>
    <form @submit.prevent="send">
      <label class="only-heard" for="words">{{ w.help.yourMessage }}</label>
      <input id="words" v-model="words" maxlength="2000" autocomplete="off" />
      <button>{{ w.help.send }}</button>
    </form>
  </section>
  <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
  <button data-test="leave-queue" @click="emit('leave')">{{ w.help.leave }}</button>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
}
form {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0.5rem;
}
</style>
