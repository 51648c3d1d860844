<script setup lang="ts">
import type { PorchView, TicketView } from '@porch/wire';
import { NButton, NTable } from 'naive-ui';
import { computed } from 'vue';
import { oneLine } from './one-line.ts';
import type { StartFrom } from './use-starting.ts';
import { w } from '../../words/index.ts';

/* One's own tickets; those that fit what stands in the start field, while any do. */
const props = defineProps<{ porch: PorchView; typed: string }>();
const emit = defineEmits<{ start: [from: StartFrom] }>();
const fitting = computed(() => {
  const words = props.typed.trim().toLowerCase();
  const { tickets } = props.porch;
  const found = tickets.filter((t) =>
    `${t.ref} ${t.title} ${t.requester.name} ${t.requester.address} ${t.asset ?? ''}`.toLowerCase().includes(words),
  );
  return found.length ? found : tickets;
});
/** The device that a ticket is about, when it may be reached now. */
const deviceOf = ({ asset }: TicketView) => props.porch.devices.find((d) => d.name === asset && d.state !== 'offline');
const hasVisits = computed(() => fitting.value.some(deviceOf));
const aboutOf = ({ requester, asset, assetLabel, title }: TicketView) =>
  oneLine(requester.name, asset, assetLabel, title);
</script>

<template>
  <section aria-labelledby="tickets">
    <h2 id="tickets">{{ w.porch.tickets }}</h2>
    <p v-if="!porch.tickets.length" class="quiet">{{ w.porch.noTickets }}</p>
    <NTable v-else size="small" class="porch-rows">
      <thead class="heard">
        <tr>
          <th scope="col" class="ref">{{ w.porch.ticket }}</th>
          <th scope="col">{{ w.waiting.columns.about }}</th>
          <th scope="col" class="acts" :class="{ visits: hasVisits }">{{ w.waiting.columns.acts }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="ticket in fitting" :key="ticket.ref" data-row tabindex="-1" :aria-label="ticket.ref">
          <td class="ref tabular">
            <b>{{ ticket.ref }}</b>
          </td>
          <td :title="`${aboutOf(ticket)} (${ticket.state})`">{{ aboutOf(ticket) }}</td>
          <td class="acts">
            <NButton
              v-if="deviceOf(ticket)"
              size="tiny"
              :aria-label="w.porch.visitFor({ device: ticket.asset ?? '', ref: ticket.ref })"
              @click="emit('start', { ticketRef: ticket.ref, deviceId: deviceOf(ticket)?.id ?? '' })"
              >{{ w.porch.visit }}</NButton
            >
            <NButton
              size="tiny"
              data-main
              :aria-label="w.porch.startFrom({ ref: ticket.ref })"
              @click="emit('start', { ticketRef: ticket.ref })"
              >{{ w.porch.start }}</NButton
            >
          </td>
        </tr>
      </tbody>
    </NTable>
  </section>
</template>

<style scoped>
.ref {
  width: 4.6rem;
}
.acts {
  width: 4.4rem;
}
.acts.visits {
  width: 8rem;
}
p {
  margin: 0;
}
</style>
