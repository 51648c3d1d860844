<script setup lang="ts">
import { NAlert, NButton, NSpin } from 'naive-ui';
import { exactly } from '../../times.ts';
import { outcomeLabels } from '../session/outcome-labels.ts';
import PastSessionsFilters from './PastSessionsFilters.vue';
import { phaseLabels } from './phase-labels.ts';
import { usePastSessions } from './usePastSessions.ts';

const { items, next, trouble, isLoading, isFiltered, filter, setFilter, clear, look, more } = usePastSessions();
</script>

<template>
  <main class="past">
    <h1>Past sessions</h1>
    <PastSessionsFilters :value="filter" :is-filtered="isFiltered" @change="setFilter" @clear="clear" />
    <NAlert v-if="trouble" type="error" :show-icon="false" role="alert">
      {{ trouble }} <NButton text type="primary" @click="look">Try again</NButton>
    </NAlert>
    <NSpin v-if="!items && !trouble" description="Reading past sessions" />
    <p v-else-if="items && !items.length" class="quiet" role="status">
      {{ isFiltered ? 'No session fits. Take something away from what is asked for.' : 'There are no sessions yet.' }}
    </p>
    <div v-else-if="items" class="scroll" tabindex="0" role="region" aria-label="Sessions">
      <table>
        <thead>
          <tr>
            <th>When</th>
            <th>Customer</th>
            <th>Ticket</th>
            <th>About</th>
            <th>Technician</th>
            <th>Outcome</th>
            <th>Minutes</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="s in items" :key="s.id">
            <td class="tabular">
              <RouterLink :to="`/past-sessions/${s.id}`">{{ exactly(s.preparedAtMs) }}</RouterLink>
            </td>
            <td>{{ s.customerName ?? '' }}</td>
            <td class="tabular">{{ s.ticketRef ?? '' }}</td>
            <td>{{ s.purpose }}</td>
            <td>{{ s.technicianName }}</td>
            <td>
              {{ s.outcome ? outcomeLabels[s.outcome] : phaseLabels[s.phase]
              }}{{ s.undelivered ? ' (ticket not told yet)' : '' }}
            </td>
            <td class="tabular">{{ s.minutes }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="items?.length" class="quiet" role="status">
      {{ items.length }} {{ items.length === 1 ? 'session' : 'sessions' }}{{ next ? ', and older ones' : '' }}.
      <NButton v-if="next" size="small" :loading="isLoading" data-test="more-sessions" @click="more">Show more</NButton>
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
