<script setup lang="ts">
import { NButton } from 'naive-ui';
import type { ConsoleSession } from '../console-ability.ts';
import { speech, w } from '../../words/index.ts';
import { clipboardTool } from './tool.ts';

/* What moves between the clipboards just now, over the stage: how far, and the stop; or the choice before it moves. */
const props = defineProps<{ session: ConsoleSession }>();
const tool = props.session.tool(clipboardTool);
const { moving, large } = tool;
const typed = tool.typing.share;
const share = (done: number, of: number) => speech.value.percent(of ? done / of : 1);
</script>

<template>
  <p v-if="large" class="note" role="alert" data-test="clip-large">
    {{ w.clipboard.large({ size: speech.bytes(large.bytes.length) }) }}
    <NButton size="tiny" type="primary" data-test="clip-large-go" @click="tool.put(large)">{{
      w.clipboard.largeGo({ computer: session.theirComputer.value, size: speech.bytes(large.bytes.length) })
    }}</NButton>
    <NButton size="tiny" @click="large = undefined">{{ w.clipboard.leave }}</NButton>
  </p>
  <p v-else-if="typed !== undefined" class="note" role="status" data-test="clip-typing">
    {{ w.clipboard.typing({ percent: String(Math.round(typed * 100)) }) }}
    <NButton size="tiny" type="error" data-test="clip-stop-typing" @click="tool.typing.stop()">{{
      w.clipboard.stop
    }}</NButton>
  </p>
  <p v-else-if="moving && moving.movedBytes < moving.sizeBytes" class="note" role="status">
    {{ w.clipboard.part[moving.kind]({ size: speech.bytes(moving.sizeBytes) }) }}:
    {{ share(moving.movedBytes, moving.sizeBytes) }}
    <NButton size="tiny" data-test="clip-stop" @click="tool.stop()">{{ w.clipboard.stop }}</NButton>
  </p>
</template>

<style scoped>
.note {
  margin: 0;
  padding: 0.3rem 0.8rem;
  display: flex;
  gap: 0.5rem;
  align-items: center;
}
</style>
