<script setup lang="ts">
import type { Mark } from '@porch/wire';
import { NButton } from 'naive-ui';
import type { TechnicianSession } from './technician-session.ts';

/* What to point with; it is drawn on the stage, and shown on the copy in the customer's page. */
defineProps<{ session: TechnicianSession; tool: Mark['kind'] | undefined }>();
const emit = defineEmits<{ tool: [kind: Mark['kind'] | undefined] }>();
const tools: readonly { kind: Mark['kind']; word: string }[] = [
  { kind: 'point', word: 'Point' },
  { kind: 'pen', word: 'Pen' },
  { kind: 'arrow', word: 'Arrow' },
  { kind: 'box', word: 'Box' },
];
</script>

<template>
  <div class="point">
    <h2>Point instead of doing</h2>
    <p class="quiet">What you draw on the stage appears in their page, over a copy of what they show.</p>
    <p class="row">
      <NButton
        v-for="one in tools"
        :key="one.kind"
        size="small"
        :type="tool === one.kind ? 'primary' : 'default'"
        :aria-pressed="tool === one.kind"
        :data-test="`tool-${one.kind}`"
        @click="emit('tool', tool === one.kind ? undefined : one.kind)"
        >{{ one.word }}</NButton
      >
    </p>
    <p class="row">
      <NButton size="small" data-test="unmark-last" @click="session.drawing.unmark('last')">Take the last away</NButton>
      <NButton size="small" data-test="unmark-all" @click="session.drawing.unmark('all')">Take all away</NButton>
    </p>
  </div>
</template>

<style scoped>
.point {
  padding: 0.8rem;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
}
</style>
