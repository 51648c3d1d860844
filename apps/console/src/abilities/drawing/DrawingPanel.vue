<script setup lang="ts">
import type { Mark } from '@porch/wire';
import { NButton } from 'naive-ui';
import { onScopeDispose } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import { drawingTool } from './tool.ts';
import { w } from '../../words/index.ts';

/* What to point with; it is drawn on the stage, and shown on the copy in the customer's page. */
const props = defineProps<{ session: ConsoleSession }>();
const { kind, unmark } = props.session.tool(drawingTool);
// Nothing is drawn with what is out of sight.
onScopeDispose(() => (kind.value = undefined));
const tools = ['point', 'pen', 'arrow', 'box'] as const satisfies readonly Mark['kind'][];
</script>

<template>
  <div class="point">
    <h2>{{ w.drawing.title }}</h2>
    <p class="quiet">{{ w.drawing.about }}</p>
    <p class="row">
      <NButton
        v-for="one in tools"
        :key="one"
        size="small"
        :type="kind === one ? 'primary' : 'default'"
        :aria-pressed="kind === one"
        :data-test="`tool-${one}`"
        @click="kind = kind === one ? undefined : one"
        >{{ w.drawing.tools[one] }}</NButton
      >
    </p>
    <p class="row">
      <NButton size="small" data-test="unmark-last" @click="unmark('last')">{{ w.drawing.takeLast }}</NButton>
      <NButton size="small" data-test="unmark-all" @click="unmark('all')">{{ w.drawing.takeAll }}</NButton>
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
