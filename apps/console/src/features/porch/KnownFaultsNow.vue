<script setup lang="ts">
import type { KnownFaultView } from '@porch/wire';
import { NButton } from 'naive-ui';
import { useDesk } from '../../desk.ts';
import { ago, exactly, useNow } from '../../times.ts';
import { useAttempt } from '../../use-attempt.ts';
import { oneLine } from './one-line.ts';
import { w } from '../../words/index.ts';

/* What many may call about today, before anything else is read. */
defineProps<{ knownFaults: readonly KnownFaultView[] }>();
const { rest } = useDesk();
const now = useNow();
const { trouble, attempt } = useAttempt();
</script>

<template>
  <section v-if="knownFaults.length" aria-labelledby="known-faults">
    <h2 id="known-faults" class="only-heard">{{ w.knownFaults.title }}</h2>
    <ul class="faults">
      <li v-for="fault in knownFaults" :key="fault.id" data-test="known-fault">
        <span class="text" :title="fault.text"
          ><b>{{ fault.topic }}</b> · {{ fault.text }}</span
        >
        <span class="quiet" :title="exactly(fault.atMs)">{{
          oneLine(fault.ticketRef, w.knownFaults.happensTo({ when: ago(fault.atMs, now), count: fault.happensToCount }))
        }}</span>
        <NButton
          size="tiny"
          :aria-label="w.knownFaults.endOf({ topic: fault.topic })"
          @click="attempt(() => rest.endKnownFault(fault.id))"
          >{{ w.knownFaults.fixed }}</NButton
        >
      </li>
    </ul>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped>
.faults {
  list-style: none;
  margin: 0;
  padding: 0;
  border-left: 4px solid var(--accent);
  background: var(--card);
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto auto;
  gap: 0 0.8rem;
  align-items: center;
  min-height: 34px;
  padding: 0 0.7rem;
}
.text {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
@media (max-width: 760px) {
  li {
    grid-template-columns: minmax(0, 1fr) auto;
    padding: 0.3rem 0.7rem;
  }
  .text {
    white-space: normal;
    grid-column: 1 / -1;
  }
}
</style>
