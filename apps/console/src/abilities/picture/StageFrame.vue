<script setup lang="ts">
import { computed } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import { inputTool } from '../input/tool.ts';
import { w } from '../../words/index.ts';

/* Says on the frame of the picture whether what is pressed goes there. */
const props = defineProps<{ session: ConsoleSession }>();
const { state, isWorking } = props.session.tool(inputTool);
const word = computed(() => {
  if (state.value.name === 'paused') return w.value.picture.frame.waits;
  return isWorking.value ? w.value.picture.frame.working : w.value.picture.frame.watching;
});
</script>

<template>
  <p class="frame" :class="{ working: isWorking }" role="status" data-test="frame">{{ word }}</p>
</template>

<style scoped>
.frame {
  position: absolute;
  inset: auto auto 0 0;
  z-index: 2;
  margin: 0;
  padding: 0.05rem 0.6rem;
  font-size: 0.85rem;
  color: var(--ink);
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 0 8px 0 0;
  pointer-events: none;
}
.frame.working {
  color: var(--on-accent);
  background: var(--accent);
}
</style>
