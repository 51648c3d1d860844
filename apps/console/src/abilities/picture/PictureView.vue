<script setup lang="ts">
import { NButton } from 'naive-ui';
import type { ConsoleSession } from '../console-ability.ts';
import PictureStage from './PictureStage.vue';
import type { StageScale } from './stage-geometry.ts';
import { pictureTool } from './tool.ts';
import { w } from '../../words/index.ts';

/* Their picture, or that this technician does not look just now. */
const props = defineProps<{ session: ConsoleSession; display: number; scale: StageScale }>();
const { isPaused } = props.session.tool(pictureTool);
</script>

<template>
  <PictureStage v-if="!isPaused" :session="session" :display="display" :scale="scale" />
  <div v-else class="paused" role="status" data-test="view-paused">
    <p>{{ w.picture.viewPaused }}</p>
    <NButton size="small" type="primary" data-test="look-again" @click="isPaused = false">{{
      w.picture.lookAgain
    }}</NButton>
  </div>
</template>

<style scoped>
.paused {
  display: grid;
  align-content: center;
  justify-items: center;
  gap: 0.6rem;
  padding: 2rem;
  text-align: center;
  color: var(--ink);
  background: var(--card);
}
p {
  max-width: 34rem;
  margin: 0;
}
</style>
