<script setup lang="ts">
import { Said } from '@porch/pages';
import { inBackground } from '@porch/client';
import { formatCode, purposeInWords } from '@porch/core';
import type { HandoverView } from '@porch/wire';
import { NAlert, NButton, NInput, NSpin } from 'naive-ui';
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { ago, countDown, exactly, useNow } from '../../times.ts';
import PorchBookings from './PorchBookings.vue';
import PorchMyState from './PorchMyState.vue';
import KnownFaults from './KnownFaults.vue';
import PorchWaiting from './PorchWaiting.vue';
import { recognise } from './recognise.ts';
import { usePorch } from './usePorch.ts';
import { ledger, w } from '../../words/index.ts';

const { rest } = useDesk();
const router = useRouter();
const { porch, isOffline, receivedAtMs } = usePorch();
const now = useNow();
const typed = ref('');
const trouble = ref('');
const isBusy = ref(false);
const recognised = computed(() => recognise(typed.value, porch.value));
const fitting = computed(() => {
  const words = typed.value.trim().toLowerCase();
  const tickets = porch.value?.tickets ?? [];
  const found = tickets.filter((t) =>
    `${t.ref} ${t.title} ${t.requester.name} ${t.requester.address} ${t.asset ?? ''}`.toLowerCase().includes(words),
  );
  return found.length ? found : tickets;
});

/** What is booked stands under its day until somebody comes in. */
const prepared = computed(() => {
  const booked = new Set(porch.value?.bookings.map((b) => b.sessionId));
  return porch.value?.sessions.filter((s) => s.phase !== 'prepared' || !booked.has(s.id)) ?? [];
});

/** The device that a ticket is about, when it may be reached now. */
const deviceOf = (asset: string | undefined) =>
  porch.value?.devices.find((d) => d.name === asset && d.state !== 'offline');

async function start(from: { ticketRef?: string; queueEntryId?: string; deviceId?: string }): Promise<void> {
  isBusy.value = true;
  trouble.value = '';
  try {
    const started = await rest.start(from);
    await router.push(`/session/${started.session.id}`);
  } catch (error) {
    trouble.value = inWords(error);
  } finally {
    isBusy.value = false;
  }
}
function go(): void {
  const r = recognised.value;
  if (r.what === 'nothing') inBackground('starting', start({}));
  else if (r.what === 'ticket') inBackground('starting', start({ ticketRef: r.ref }));
  else if (r.what === 'entry') inBackground('starting', start({ queueEntryId: r.id }));
  else if (r.what === 'device') inBackground('starting', start({ deviceId: r.id }));
}
async function answer(handover: HandoverView, what: 'accept' | 'decline'): Promise<void> {
  trouble.value = '';
  try {
    const { sessionId } = await rest.answerHandover(handover.handoverId, what);
    if (what === 'accept') await router.push(`/session/${sessionId}`);
  } catch (error) {
    trouble.value = inWords(error);
  }
}
</script>

<template>
  <main class="porch">
    <h1 class="only-heard">{{ w.porch.title }}</h1>
    <form class="field" role="search" @submit.prevent="go">
      <NInput
        v-model:value="typed"
        size="large"
        autofocus
        :placeholder="w.porch.field"
        :input-props="{
          'aria-label': w.porch.field,
          'aria-describedby': 'what-enter-does',
          id: 'start-field',
        }"
      />
      <NButton
        attr-type="submit"
        type="primary"
        size="large"
        :loading="isBusy"
        :disabled="recognised.what === 'unknown'"
        >{{ w.porch.start }}</NButton
      >
      <p id="what-enter-does" class="quiet" aria-live="polite">{{ recognised.sentence(w.start) }}</p>
    </form>
    <NAlert v-if="trouble" type="error" :show-icon="false" role="alert">{{ trouble }}</NAlert>
    <NAlert v-if="isOffline" type="warning" :show-icon="false">{{ w.common.offline }}</NAlert>
    <NAlert v-if="porch?.ticketTrouble" type="warning" :show-icon="false">{{
      w.porch.ticketTrouble({ why: porch.ticketTrouble })
    }}</NAlert>
    <NAlert v-if="porch?.undelivered" type="warning" :show-icon="false" data-test="undelivered">{{
      w.porch.undelivered({ count: porch.undelivered })
    }}</NAlert>
    <NSpin v-if="!porch" :description="w.porch.looking" />
    <template v-else>
      <PorchMyState :porch="porch" :received-at-ms="receivedAtMs" />
      <section
        v-for="handover in porch.handovers"
        :key="handover.handoverId"
        class="card waits"
        :aria-label="w.porch.handover"
        data-test="handover"
      >
        <h2>
          <Said
            :of="
              w.porch.handoverAsks({
                name: handover.fromName,
                time: countDown(handover.remainingMs - (now - receivedAtMs)),
              })
            "
            ><template #time="{ text }"
              ><span class="tabular">{{ text }}</span></template
            ></Said
          >
        </h2>
        <pre>{{ handover.brief }}</pre>
        <p class="row">
          <NButton type="primary" data-test="handover-accept" @click="answer(handover, 'accept')">{{
            w.porch.takeOver
          }}</NButton><NButton @click="answer(handover, 'decline')">{{ w.porch.notNow }}</NButton>
        </p>
      </section>

      <div class="columns">
        <div class="people">
          <PorchWaiting :porch="porch" :received-at-ms="receivedAtMs" @help="start({ queueEntryId: $event })" />
          <PorchBookings :bookings="porch.bookings" />

          <section aria-labelledby="mine">
            <h2 id="mine">{{ w.porch.mine }}</h2>
            <p v-if="!prepared.length" class="quiet">{{ w.porch.mineEmpty }}</p>
            <ul class="rows">
              <li v-for="session in prepared" :key="session.id" class="card">
                <div>
                  <b>{{ session.customerName ?? w.common.nobodyYet }}</b> ·
                  {{ [w.common.phases[session.phase], ...(session.ticketRef ? [session.ticketRef] : [])].join(' · ') }}
                  <p>{{ purposeInWords(session.purpose, ledger) }}</p>
                </div>
                <span v-if="session.code" class="tabular"
                  ><b>{{ formatCode(session.code.digits) }}</b
                  ><br /><small>{{
                    w.common.left({ time: countDown(session.code.remainingMs - (now - receivedAtMs)) })
                  }}</small></span
                >
                <span v-else class="quiet" :title="exactly(session.changedAtMs)">{{
                  ago(session.changedAtMs, now)
                }}</span>
                <NButton
                  :aria-label="
                    session.customerName ? w.porch.openOf({ name: session.customerName }) : w.porch.openOfNobody
                  "
                  @click="router.push(`/session/${session.id}`)"
                  >{{ w.porch.open }}</NButton
                >
              </li>
            </ul>
          </section>
        </div>
        <div class="day">
          <section aria-labelledby="tickets">
            <h2 id="tickets">{{ w.porch.tickets }}</h2>
            <p v-if="!porch.tickets.length" class="quiet">{{ w.porch.noTickets }}</p>
            <ul class="rows">
              <li v-for="ticket in fitting" :key="ticket.ref" class="card">
                <div>
                  <b class="tabular">{{ ticket.ref }}</b> · {{ ticket.requester.name
                  }}{{ ticket.asset ? ` · ${ticket.asset}` : '' }}
                  <p>{{ ticket.title }}</p>
                </div>
                <span class="quiet">{{ ticket.state }}</span>
                <span class="row">
                  <NButton
                    :aria-label="w.porch.startFrom({ ref: ticket.ref })"
                    @click="start({ ticketRef: ticket.ref })"
                    >{{ w.porch.start }}</NButton
                  >
                  <NButton
                    v-if="deviceOf(ticket.asset)"
                    :aria-label="w.porch.visitFor({ device: ticket.asset ?? '', ref: ticket.ref })"
                    @click="start({ ticketRef: ticket.ref, deviceId: deviceOf(ticket.asset)?.id ?? '' })"
                    >{{ w.porch.visit }}</NButton
                  >
                </span>
              </li>
            </ul>
          </section>
          <KnownFaults :known-faults="porch.knownFaults" />
        </div>
      </div>
    </template>
  </main>
</template>

<style scoped>
.porch {
  max-width: 110rem;
  margin: 0 auto;
  padding: 1rem;
  display: grid;
  gap: 1rem;
}
.columns,
.people,
.day {
  display: grid;
  gap: 1rem;
  align-content: start;
  min-width: 0;
}
/* People at the left, whatever is one's own at the right: nothing that matters is below the fold. */
@media (min-width: 1100px) {
  .columns {
    grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
    gap: 1.6rem;
  }
}
.field {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0.3rem 0.6rem;
}
.field p {
  grid-column: 1 / -1;
  margin: 0;
}
li {
  display: grid;
  grid-template-columns: 1fr auto auto;
  gap: 0.8rem;
  align-items: center;
}
li p {
  margin: 0;
  color: var(--quiet);
}
.waits {
  background: var(--amber-ground);
  border-color: var(--amber);
}
.waits p {
  color: inherit;
}
.row {
  display: flex;
  gap: 0.6rem;
  margin: 0;
}
pre {
  font: inherit;
  white-space: pre-wrap;
  margin: 0.3rem 0;
}
@media (max-width: 500px) {
  li {
    grid-template-columns: 1fr auto;
  }
  li div {
    grid-column: 1 / -1;
  }
}
</style>
