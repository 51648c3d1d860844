<script setup lang="ts">
import { inBackground } from '@porch/client';
import { Language, languageNames, languages, languageTags } from '@porch/core';
import { language, speak, w } from '../words/index.ts';

const choose = (event: Event) =>
  inBackground('fetching the words', speak(Language.parse((event.target as HTMLSelectElement).value), true));
</script>

<template>
  <select class="language" :aria-label="w.common.language" :value="language" data-test="language" @change="choose">
    <option v-for="one in languages" :key="one" :value="one" :lang="languageTags[one]">{{ languageNames[one] }}</option>
  </select>
</template>

<style scoped>
.language {
  width: auto;
  padding: 0.1rem 0.3rem;
  background: transparent;
  color: inherit;
}
/* The list that opens is the browser's own. */
.language option {
  background: Canvas;
  color: CanvasText;
}
</style>
