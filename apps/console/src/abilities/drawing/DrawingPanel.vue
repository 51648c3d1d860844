<script setup lang="ts">
import { markColour } from '@porch/client';
import type { Mark } from '@porch/wire';
import { NButton, NCheckbox } from 'naive-ui';
import { onScopeDispose } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import { drawingTool } from './tool.ts';
import { w } from '../../words/index.ts';

/* What to point and draw with on the stage. */
const props = defineProps<{ session: ConsoleSession }>();
const { kind, fades, unmark, isOnScreen } = props.session.tool(drawingTool);
// Nothing is drawn with what is out of sight.
onScopeDispose(() => (kind.value = undefined));
const tools = ['point', 'pen', 'marker', 'arrow', 'box', 'text'] as const satisfies readonly Mark['kind'][];
const ownColour = markColour(props.session.connection.seat);
</script>

<template>
  <div class="point">
    <h2>{{ w.drawing.title }} <span class="dot" :style="{ background: ownColour }" aria-hidden="true" /></h2>
    <p class="quiet">{{ isOnScreen ? w.drawing.about : w.drawing.aboutCopy }}</p>
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
    <p>
      <NCheckbox v-model:checked="fades" data-test="fades">{{ w.drawing.fades }}</NCheckbox>
    </p>
    <p class="row">
      <NButton size="small" data-test="unmark-last" @click="unmark('last')">{{ w.drawing.takeLast }}</NButton>
      <NButton size="small" data-test="unmark-all" @click="unmark('all')">{{ w.drawing.takeAll }}</NButton>
      <NButton size="small" data-test="unmark-everybodys" @click="unmark('everybodys')">{{
        w.drawing.takeEverybodys
      }}</NButton>
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
.dot {
  display: inline-block;
  width: 0.8rem;
  height: 0.8rem;
  border-radius: 50%;
}
</style>
