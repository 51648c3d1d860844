<script setup lang="ts">
import { NButton } from 'naive-ui';
import { computed } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import PictureStage from './PictureStage.vue';
import type { StageScale } from './stage-geometry.ts';
import { pictureTool } from './tool.ts';
import { w } from '../../words/index.ts';

/* Their picture; or that it stands in a window of its own, or that this technician does not look just now. */
const props = defineProps<{
  session: ConsoleSession;
  display: number;
  scale: StageScale;
  isOwnWindow?: boolean;
}>();
const emit = defineEmits<{ scale: [scale: StageScale] }>();
const { isPaused, windows } = props.session.tool(pictureTool);
const isElsewhere = computed(() => !props.isOwnWindow && windows.displays.value.has(props.display));
</script>

<template>
  <div v-if="isPaused" class="instead" role="status" data-test="view-paused">
    <p>{{ w.picture.viewPaused }}</p>
    <NButton size="small" type="primary" data-test="look-again" @click="isPaused = false">{{
      w.picture.lookAgain
    }}</NButton>
  </div>
  <div v-else-if="isElsewhere" class="instead" role="status" data-test="elsewhere">
    <p>{{ w.picture.elsewhere }}</p>
    <p>
      <NButton size="small" type="primary" @click="windows.focus(display)">{{ w.picture.showWindow }}</NButton>
      <NButton size="small" data-test="bring-back" @click="windows.close(display)">{{ w.picture.bringBack }}</NButton>
    </p>
  </div>
  <PictureStage v-else :session="session" :display="display" :scale="scale" @scale="emit('scale', $event)" />
</template>

<style scoped>
.instead {
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
button + button {
  margin-left: 0.4rem;
}
</style>
