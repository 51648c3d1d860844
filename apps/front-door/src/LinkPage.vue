<script setup lang="ts">
import { ref } from 'vue';
import { goTo, inWords, rest } from './door.ts';
import { w } from './words/index.ts';

const props = defineProps<{ token: string }>();
const trouble = ref('');
const isBusy = ref(false);

/** Only a person's press counts: programs that look at links in mails must not use one up. */
async function go(): Promise<void> {
  isBusy.value = true;
  try {
    await rest.join({ link: props.token, as: 'page' });
    goTo('/session');
  } catch (error) {
    trouble.value = inWords(error);
  } finally {
    isBusy.value = false;
  }
}
</script>

<template>
  <main>
    <h1>{{ w.link.title }}</h1>
    <p>{{ w.link.next }}</p>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
    <button class="first" :disabled="isBusy" @click="go">{{ w.link.go }}</button>
  </main>
</template>
