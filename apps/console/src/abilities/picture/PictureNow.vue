<script setup lang="ts">
import { computed } from 'vue';
import { limitWords, rateWords } from './picture-words.ts';
import type { ConsoleSession } from '../console-ability.ts';
import { pictureTool } from './tool.ts';

const props = defineProps<{ session: ConsoleSession }>();
const { now, sourceNow } = props.session.tool(pictureTool);
const limit = computed(() => limitWords(sourceNow.value, props.session.connection.roundTripMs, now.value));
</script>

<template>
  <p v-if="now" class="now tabular" data-test="picture-now">
    <span>{{ rateWords(now.bitsPerSecond) }}</span>
    <span>{{ now.framesPerSecond }} {{ now.framesPerSecond === 1 ? 'picture' : 'pictures' }}/s</span>
    <span v-if="now.inputDelayMs !== undefined">{{ Math.round(now.inputDelayMs) }} ms from key to picture</span>
    <span>{{ limit }}</span>
    <span v-if="now.refused" class="refused">{{ now.refused }} forged or damaged messages refused</span>
  </p>
</template>

<style scoped>
.now {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem 1.2rem;
  margin: 0;
  padding: 0.2rem 0.8rem;
  font-size: 0.85rem;
  background: var(--card);
  border-top: 1px solid var(--line);
}
.refused {
  color: var(--amber);
  font-weight: 700;
}
</style>
