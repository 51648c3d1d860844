<script setup lang="ts">
import { Said } from '@porch/pages';
import { clockSince } from '@porch/client';
import { languageNames } from '@porch/core';
import type { PorchView, WaitingView } from '@porch/wire';
import { NButton, NTable } from 'naive-ui';
import { computed, reactive } from 'vue';
import { exactly, toTheMinute, useNow } from '../../times.ts';
import { oneLine } from './one-line.ts';
import WaitingPerson from './WaitingPerson.vue';
import { w } from '../../words/index.ts';

const props = defineProps<{ porch: PorchView; receivedAtMs: number }>();
const emit = defineEmits<{ help: [entryId: string] }>();
const now = useNow();
/** What a technician opened or closed themselves; an offer stands open. */
const opened = reactive<Record<string, boolean>>({});
const isOpen = (entry: WaitingView) => opened[entry.id] ?? entry.offer?.isMine === true;
const leftMs = (entry: WaitingView) => (entry.offer?.remainingMs ?? 0) - (now.value - props.receivedAtMs);
const isAnothers = (entry: WaitingView) => entry.offer !== undefined && !entry.offer.isMine && leftMs(entry) > 0;
const aboutOf = ({ topic, ticketRef, description, wants, callBack }: WaitingView) =>
  oneLine(
    topic,
    wants === 'chat' ? w.value.waiting.chatOnly : undefined,
    callBack && w.value.waiting.callBack({ number: callBack }),
    ticketRef,
    description,
  );
const deviceOf = ({ asset, assetLabel }: WaitingView) => oneLine(asset, assetLabel);
const promised = ({ promisedMs }: WaitingView) => {
  if (promisedMs === undefined) return '';
  const by = { time: toTheMinute(promisedMs) };
  return promisedMs < now.value ? w.value.waiting.late(by) : w.value.waiting.by(by);
};
const sorted = computed(() =>
  [...props.porch.waiting].sort((a, b) => Number(b.offer?.isMine ?? false) - Number(a.offer?.isMine ?? false)),
);
</script>

<template>
  <section aria-labelledby="waiting">
    <h2 id="waiting">
      <Said v-if="porch.waiting.length" :of="w.waiting.titleCount({ count: porch.waiting.length })"
        ><template #b="{ text }"
          ><span class="tabular">{{ text }}</span></template
        ></Said
      >
      <template v-else>{{ w.waiting.title }}</template>
    </h2>
    <p v-if="!porch.waiting.length" class="quiet">{{ w.waiting.nobody }}</p>
    <NTable v-if="sorted.length" size="small" class="porch-rows">
      <thead>
        <tr>
          <th scope="col" class="time">{{ w.waiting.columns.since }}</th>
          <th scope="col" class="who">{{ w.waiting.columns.who }}</th>
          <th scope="col" class="device">{{ w.waiting.columns.device }}</th>
          <th scope="col">{{ w.waiting.columns.about }}</th>
          <th scope="col" class="language">{{ w.waiting.columns.language }}</th>
          <th scope="col" class="promised">{{ w.waiting.columns.promised }}</th>
          <th scope="col" class="acts">
            <span class="only-heard">{{ w.waiting.columns.acts }}</span>
          </th>
        </tr>
      </thead>
      <tbody v-for="entry in sorted" :key="entry.id" class="waits" data-test="entry">
        <tr data-row tabindex="-1" :aria-label="entry.name" @dblclick="opened[entry.id] = !isOpen(entry)">
          <td class="tabular" :title="exactly(entry.sinceMs)">{{ clockSince(now - entry.sinceMs) }}</td>
          <td :title="entry.isConfirmed ? w.waiting.confirmed : w.waiting.saysSo">
            <b>{{ entry.name }}</b>
            <span aria-hidden="true">{{ entry.isConfirmed ? ' ✓' : '' }}</span>
          </td>
          <td :title="deviceOf(entry)">{{ deviceOf(entry) }}</td>
          <td :title="aboutOf(entry)">{{ aboutOf(entry) }}</td>
          <td>{{ languageNames[entry.language] }}</td>
          <td class="tabular">{{ promised(entry) }}</td>
          <td class="acts">
            <NButton
              size="tiny"
              type="primary"
              data-main
              :disabled="isAnothers(entry)"
              :aria-label="w.waiting.helpOf({ name: entry.name })"
              @click="emit('help', entry.id)"
              >{{ w.waiting.help }}</NButton
            >
            <NButton
              size="tiny"
              quaternary
              :aria-expanded="isOpen(entry)"
              :aria-label="w.waiting.moreOf({ name: entry.name, count: entry.messages.length })"
              @click="opened[entry.id] = !isOpen(entry)"
              >{{ entry.messages.length ? `${entry.messages.length} ` : '' }}{{ isOpen(entry) ? '▴' : '▾' }}</NButton
            >
          </td>
        </tr>
        <tr v-if="isOpen(entry)">
          <td colspan="7"><WaitingPerson :entry="entry" :left-ms="leftMs(entry)" /></td>
        </tr>
      </tbody>
    </NTable>
  </section>
</template>

<style scoped>
.time {
  width: 4.2rem;
}
.who {
  width: 17%;
}
.device {
  width: 18%;
}
.language {
  width: 4.9rem;
}
.promised {
  width: 6.4rem;
}
.acts {
  width: 6.2rem;
}
/* For somebody who waits, and for nothing else. */
.waits tr:first-child {
  background: var(--amber-ground);
}
p {
  margin: 0;
}
</style>
