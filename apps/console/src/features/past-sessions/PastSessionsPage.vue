<script setup lang="ts">
import type { SessionView } from '@porch/wire';
import { NAlert, NInput, NSpin } from 'naive-ui';
import { onMounted, ref, watch } from 'vue';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { exactly } from '../../times.ts';

const { rest } = useDesk();
const words = ref('');
const sessions = ref<SessionView[]>();
const trouble = ref('');
let asked = 0;

async function look(): Promise<void> {
  const mine = ++asked;
  try {
    const found = await rest.sessions(words.value);
    // An answer that comes after a newer question is thrown away.
    if (mine === asked) sessions.value = found;
    trouble.value = '';
  } catch (error) {
    trouble.value = inWords(error);
  }
}
onMounted(look);
watch(words, look);
</script>

<template>
  <main class="past">
    <h1>Past sessions</h1>
    <NInput
      v-model:value="words"
      placeholder="Ticket, customer, technician, outcome"
      :input-props="{ 'aria-label': 'Search sessions' }"
    />
    <NAlert v-if="trouble" type="error" :show-icon="false" role="alert">{{ trouble }}</NAlert>
    <NSpin v-if="!sessions && !trouble" description="Reading past sessions" />
    <p v-else-if="sessions && !sessions.length" class="quiet">No session fits.</p>
    <div v-else-if="sessions" class="scroll" tabindex="0" role="region" aria-label="Sessions">
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
          <tr v-for="s in sessions" :key="s.id">
            <td class="tabular">
              <RouterLink :to="`/past-sessions/${s.id}`">{{ exactly(s.preparedAtMs) }}</RouterLink>
            </td>
            <td>{{ s.customerName ?? '' }}</td>
            <td class="tabular">{{ s.ticketRef ?? '' }}</td>
            <td>{{ s.purpose }}</td>
            <td>{{ s.technicianName }}</td>
            <td>{{ s.outcome ?? s.phase }}{{ s.undelivered ? ' (ticket not told yet)' : '' }}</td>
            <td class="tabular">{{ s.minutes }}</td>
          </tr>
        </tbody>
      </table>
    </div>
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
</style>
