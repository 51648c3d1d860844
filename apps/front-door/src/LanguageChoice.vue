<script setup lang="ts">
import { languageNames, languages, languageTags } from '@porch/core';
import { inBackground } from '@porch/client';
import { language as spoken, speak } from './words/index.ts';
</script>

<template>
  <nav aria-label="Language · Språk · Sprache">
    <button
      v-for="language in languages"
      :key="language"
      class="plain"
      :lang="languageTags[language]"
      :aria-pressed="spoken === language"
      @click="inBackground('fetching the words', speak(language, true))"
    >
      {{ languageNames[language] }}
    </button>
  </nav>
</template>

<style scoped>
nav {
  max-width: 38rem;
  margin: 0 auto;
  padding: 0.5rem 1rem 0;
  display: flex;
  gap: 1rem;
  justify-content: flex-end;
}
.plain {
  min-height: 2rem;
  padding: 0.1rem 0.2rem;
  border: 0;
  border-radius: 4px;
  background: none;
  font-weight: 400;
  text-decoration: underline;
}
.plain[aria-pressed='true'] {
  font-weight: 700;
  text-decoration: none;
}
</style>
