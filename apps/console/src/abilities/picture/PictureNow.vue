<script setup lang="ts">
import { computed } from 'vue';
import { limitOf, rateWords } from './picture-words.ts';
import type { ConsoleSession } from '../console-ability.ts';
import { pictureTool } from './tool.ts';
import { speech, w } from '../../words/index.ts';

const props = defineProps<{ session: ConsoleSession }>();
const { now, sourceNow } = props.session.tool(pictureTool);
const limit = computed(() => limitOf(sourceNow.value, props.session.connection.roundTripMs, now.value));
</script>

<template>
  <p v-if="now" class="now tabular" data-test="picture-now">
    <span>{{ rateWords(now.bitsPerSecond, speech) }}</span>
    <span>{{ w.picture.perSecond({ count: now.framesPerSecond }) }}</span>
    <span v-if="now.inputDelayMs !== undefined">{{ w.picture.inputDelay({ ms: Math.round(now.inputDelayMs) }) }}</span>
    <span :class="{ 'only-heard': limit === 'nothing' }">{{ w.picture.limits[limit] }}</span>
    <span v-if="now.refused" class="refused">{{ w.picture.forged({ count: now.refused }) }}</span>
  </p>
</template>

<style scoped>
.now {
  display: flex;
  flex-wrap: wrap;
  gap: 0 0.7rem;
  margin: 0;
  font-size: 0.85rem;
}
.refused {
  color: var(--red);
  font-weight: 700;
}
</style>
