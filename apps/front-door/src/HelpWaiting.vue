<script setup lang="ts">
import type { EntryStatus } from '@porch/wire';
import { computed, ref } from 'vue';
import { useI18n } from 'vue-i18n';
import { waitInWords } from './words/index.ts';

const props = defineProps<{ status: EntryStatus; topic: string; trouble: string }>();
const emit = defineEmits<{ say: [text: string]; leave: [] }>();
const { t } = useI18n();
const words = ref('');
const wait = computed(() => waitInWords(props.status.estimate, 'help.more'));
function send(): void {
  const text = words.value.trim();
  if (!text) return;
  words.value = '';
  emit('say', text);
}
</script>

<template>
  <h1>{{ t('help.queued') }}</h1>
  <section class="card asks" role="status">
    <p>
      <i18n-t keypath="help.place" tag="span">
        <template #place
          ><b class="tabular" data-test="place">{{ status.place }}</b></template
        >
      </i18n-t>
    </p>
    <p data-test="wait">{{ status.isBeingRead ? t('help.beingRead') : wait }}</p>
    <p>{{ status.entry.callBack ? t('help.willCall', { number: status.entry.callBack }) : t('help.keepOpen') }}</p>
  </section>
  <p class="quiet">{{ topic }}: {{ status.entry.description }}</p>
  <section class="card" aria-labelledby="meanwhile">
    <h2 id="meanwhile">{{ t('help.talk') }}</h2>
    <ul aria-live="polite" data-test="queue-chat">
      <li v-for="(m, i) in status.entry.messages" :key="i">
        <b>{{ m.isDesk ? m.name : t('help.you') }}</b><br />{{ m.text }}
      </li>
    </ul>
    <form @submit.prevent="send">
      <label class="only-heard" for="words">{{ t('help.yourMessage') }}</label>
      <input id="words" v-model="words" maxlength="2000" autocomplete="off" />
      <button>{{ t('help.send') }}</button>
    </form>
  </section>
  <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
  <button data-test="leave-queue" @click="emit('leave')">{{ t('help.leave') }}</button>
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
