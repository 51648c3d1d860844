<script setup lang="ts">
import { firstName, isUnderWay, type FileTransfer } from '@porch/core';
import { NButton, NProgress } from 'naive-ui';
import { computed } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import { filesTool } from './tool.ts';
import { speech, w } from '../../words/index.ts';

const props = defineProps<{ session: ConsoleSession; file: FileTransfer }>();
const tool = props.session.tool(filesTool);
const name = computed(() => props.file.name ?? w.value.ledger.erased);
const isFromUs = computed(() => props.session.state.value.participants[props.file.fromId]?.side === 'desk');
const progress = computed(() => tool.progress.value[props.file.id]);
const share = computed(() => {
  const { movedBytes = 0, sizeBytes = 0 } = progress.value ?? {};
  return sizeBytes ? movedBytes / sizeBytes : 0;
});
const stage = computed(() => {
  const { stage: now, pausedBy } = props.file;
  if (now !== 'moving') return w.value.files.stages[now];
  if (pausedBy !== undefined) {
    const who = props.session.state.value.participants[pausedBy]?.name;
    return who === undefined ? w.value.files.waits : w.value.files.waitsBy({ who: firstName(who) });
  }
  const { bytesPerSecond, leftMs } = progress.value ?? {};
  if (bytesPerSecond === undefined || leftMs === undefined) return w.value.files.stages.moving;
  return w.value.files.rate({ rate: speech.value.bytes(bytesPerSecond), left: speech.value.roughly(leftMs) });
});
const again = computed(() =>
  isUnderWay(props.file) || props.file.stage === 'arrived' ? undefined : tool.canAgain(props.file.id),
);
</script>

<template>
  <li>
    <b class="name">{{ name }}</b>
    <span class="quiet">
      <template v-if="file.isFolder">{{ w.files.folder({ count: file.count }) }}, </template
      >{{ w.files[isFromUs ? 'to' : 'from']({ size: speech.bytes(file.sizeBytes), stage }) }}</span
    >
    <NProgress
      v-if="file.stage === 'moving'"
      color="var(--accent)"
      :percentage="Math.round(share * 100)"
      :aria-label="w.files.progress({ name, percent: speech.percent(share) })"
    />
    <span class="does">
      <template v-if="file.stage === 'offered' && !isFromUs">
        <NButton size="tiny" type="primary" @click="tool.take(file.id)">{{ w.files.take }}</NButton>
        <NButton size="tiny" @click="tool.attempt(() => tool.transfers.refuse(file.id))">{{ w.files.no }}</NButton>
      </template>
      <NButton
        v-if="file.stage === 'moving'"
        size="tiny"
        @click="tool.attempt(() => tool.transfers.setPaused(file.id, file.pausedBy === undefined))"
        >{{ file.pausedBy === undefined ? w.files.letWait : w.files.goOn }}</NButton
      >
      <NButton
        v-if="file.stage === 'moving' || (file.stage === 'offered' && isFromUs)"
        size="tiny"
        @click="tool.attempt(() => tool.transfers.cancel(file.id))"
        >{{ w.files.cancel }}</NButton
      >
      <NButton v-if="again" size="tiny" @click="tool.again(file.id)">{{
        again === 'give' ? w.files.again : w.files.fetchAgain
      }}</NButton>
    </span>
  </li>
</template>

<style scoped>
.name {
  display: block;
  overflow-wrap: anywhere;
}
.does {
  display: flex;
  gap: 0.3rem;
  margin-top: 0.2rem;
}
</style>
