<script setup lang="ts">
import { ago, useNow } from '../../times.ts';
import { w } from '../../words/index.ts';
import type { ConsoleSession } from '../console-ability.ts';
import { restartTool } from './tool.ts';

/* Over the stage while their computer is away and was to come back: how far it is, and what to try when it is late. */
const props = defineProps<{ session: ConsoleSession }>();
const { away } = props.session.tool(restartTool);
const now = useNow();
</script>

<template>
  <div v-if="away" class="away" role="status" data-test="away">
    <p>
      <b>{{ w.restartAndReturn.waits({ computer: session.theirComputer.value }) }}</b>
    </p>
    <p>{{ w.restartAndReturn.since({ step: w.restartAndReturn.steps[away.step], ago: ago(away.sinceMs, now) }) }}</p>
    <p v-if="away.isLate" data-test="away-late">{{ w.restartAndReturn.late }}</p>
  </div>
</template>

<style scoped>
.away {
  max-width: 34rem;
  /* At its foot stands whether one works there or watches. */
  padding: 0.6rem 1rem 2.6rem;
  background: #faf6ec;
  color: #1d2b2c;
  border-radius: 8px;
}
p {
  margin: 0.2rem 0;
}
</style>
