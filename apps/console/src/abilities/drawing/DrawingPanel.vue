<script setup lang="ts">
import type { Mark } from '@porch/wire';
import { NButton } from 'naive-ui';
import { onScopeDispose } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import { drawingTool } from './tool.ts';

/* What to point with; it is drawn on the stage, and shown on the copy in the customer's page. */
const props = defineProps<{ session: ConsoleSession }>();
const { kind, unmark } = props.session.tool(drawingTool);
// Nothing is drawn with what is out of sight.
onScopeDispose(() => (kind.value = undefined));
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
        :type="kind === one.kind ? 'primary' : 'default'"
        :aria-pressed="kind === one.kind"
        :data-test="`tool-${one.kind}`"
        @click="kind = kind === one.kind ? undefined : one.kind"
        >{{ one.word }}</NButton
      >
    </p>
    <p class="row">
      <NButton size="small" data-test="unmark-last" @click="unmark('last')">Take the last away</NButton>
      <NButton size="small" data-test="unmark-all" @click="unmark('all')">Take all away</NButton>
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
