<script setup lang="ts">
import { purposeInWords } from '@porch/core';
import type { SessionView } from '@porch/wire';
import { NAlert, NButton, NSpin } from 'naive-ui';
import { exactly } from '../../times.ts';
import PastSessionsFilters from './PastSessionsFilters.vue';
import { usePastSessions } from './usePastSessions.ts';
import { ledger, w } from '../../words/index.ts';

const { items, next, trouble, isLoading, isFiltered, filter, setFilter, clear, look, more } = usePastSessions();
const stateOf = ({ outcome, phase }: Pick<SessionView, 'outcome' | 'phase'>) =>
  outcome ? w.value.common.outcomes[outcome] : w.value.pastSessions.phases[phase];
</script>

<template>
  <main class="past">
    <h1>{{ w.pastSessions.title }}</h1>
    <PastSessionsFilters :value="filter" :is-filtered="isFiltered" @change="setFilter" @clear="clear" />
    <NAlert v-if="trouble" type="error" :show-icon="false" role="alert">
      {{ trouble }} <NButton text type="primary" @click="look">{{ w.pastSessions.tryAgain }}</NButton>
    </NAlert>
    <NSpin v-if="!items && !trouble" :description="w.pastSessions.reading" />
    <p v-else-if="items && !items.length" class="quiet" role="status">
      {{ isFiltered ? w.pastSessions.noneFits : w.pastSessions.none }}
    </p>
    <div v-else-if="items" class="scroll" tabindex="0" role="region" :aria-label="w.pastSessions.sessions">
      <table>
        <thead>
          <tr>
            <th>{{ w.pastSessions.when }}</th>
            <th>{{ w.pastSessions.customer }}</th>
            <th>{{ w.pastSessions.ticket }}</th>
            <th>{{ w.pastSessions.about }}</th>
            <th>{{ w.pastSessions.technician }}</th>
            <th>{{ w.pastSessions.outcome }}</th>
            <th>{{ w.pastSessions.minutes }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="s in items" :key="s.id">
            <td class="tabular">
              <RouterLink :to="`/past-sessions/${s.id}`">{{ exactly(s.preparedAtMs) }}</RouterLink>
            </td>
            <td>{{ s.customerName ?? '' }}</td>
            <td class="tabular">{{ s.ticketRef ?? '' }}</td>
            <td>{{ purposeInWords(s.purpose, ledger) }}</td>
            <td>{{ s.technicianName }}</td>
            <td>
              {{ s.undelivered ? w.pastSessions.untold({ outcome: stateOf(s) }) : stateOf(s) }}
            </td>
            <td class="tabular">{{ s.minutes }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="items?.length" class="quiet" role="status">
      {{ w.pastSessions[next ? 'countAndOlder' : 'count']({ count: items.length }) }}
      <NButton v-if="next" size="small" :loading="isLoading" data-test="more-sessions" @click="more">{{
        w.pastSessions.more
      }}</NButton>
    </p>
  </main>
</template>

<style scoped>
.past {
  max-width: 72rem;
  margin: 0 auto;
  padding: 1rem;
  display: grid;
  gap: 1rem;
}
.scroll {
  overflow-x: auto;
}
table {
  border-collapse: collapse;
  width: 100%;
  background: var(--card);
}
th,
td {
  text-align: left;
  padding: 0.4rem 0.7rem;
  border-bottom: 1px solid var(--line);
}
td.tabular {
  white-space: nowrap;
}
</style>
