<script setup lang="ts">
import { Said } from '@porch/pages';
import { inBackground } from '@porch/client';
import type { HandoverView } from '@porch/wire';
import { NAlert, NButton, NInput, NSpin } from 'naive-ui';
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { useDesk } from '../../desk.ts';
import { countDown, useNow } from '../../times.ts';
import BookSession from './BookSession.vue';
import PorchBookings from './PorchBookings.vue';
import PorchMyState from './PorchMyState.vue';
import CarefulActs from './CarefulActs.vue';
import KnownFaultsNow from './KnownFaultsNow.vue';
import PorchSessions from './PorchSessions.vue';
import PorchTickets from './PorchTickets.vue';
import PorchWaiting from './PorchWaiting.vue';
import { handleRowKey, intoRows } from './porch-rows.ts';
import { recognise } from './recognise.ts';
import TellKnownFault from './TellKnownFault.vue';
import { usePorch } from './usePorch.ts';
import { useStarting } from './use-starting.ts';
import { w } from '../../words/index.ts';

const { rest } = useDesk();
const router = useRouter();
const { porch, isOffline, receivedAtMs } = usePorch();
const now = useNow();
const typed = ref('');
const { trouble, isBusy, attempt, start } = useStarting();
const recognised = computed(() => recognise(typed.value, porch.value));
function go(): void {
  const r = recognised.value;
  if (r.what === 'nothing') inBackground('starting', start({}));
  else if (r.what === 'ticket') inBackground('starting', start({ ticketRef: r.ref }));
  else if (r.what === 'entry') inBackground('starting', start({ queueEntryId: r.id }));
  else if (r.what === 'device') inBackground('starting', start({ deviceId: r.id }));
  else if (r.what === 'telephone')
    inBackground('looking who calls', router.push({ path: '/caller', state: { telephone: r.number } }));
}
const answer = (handover: HandoverView, what: 'accept' | 'decline') =>
  attempt(async () => {
    const { sessionId } = await rest.answerHandover(handover.handoverId, what);
    if (what === 'accept') await router.push(`/session/${sessionId}`);
  });
</script>

<template>
  <main class="porch">
    <h1 class="only-heard">{{ w.porch.title }}</h1>
    <form class="field" role="search" @submit.prevent="go" @keydown="intoRows">
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
      <div class="hints quiet">
        <span id="what-enter-does" aria-live="polite">{{ recognised.sentence(w.start) }}</span>
        <span class="keys">{{ w.porch.keys }}</span>
      </div>
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
      <KnownFaultsNow :known-faults="porch.knownFaults" />
      <CarefulActs :acts="porch.carefulActs" />
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

      <div class="columns" @keydown="handleRowKey">
        <div class="people">
          <PorchWaiting :porch="porch" :received-at-ms="receivedAtMs" @help="start({ queueEntryId: $event })" />
          <PorchBookings :bookings="porch.bookings" />
          <PorchSessions :porch="porch" :received-at-ms="receivedAtMs" />
        </div>
        <div class="day">
          <PorchMyState :porch="porch" :received-at-ms="receivedAtMs" />
          <PorchTickets :porch="porch" :typed="typed" @start="start" />
          <BookSession />
          <TellKnownFault />
        </div>
      </div>
    </template>
  </main>
</template>

<style scoped>
.porch {
  max-width: 110rem;
  margin: 0 auto;
  padding: 0.7rem 1rem;
  display: grid;
  gap: 0.6rem;
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
    grid-template-columns: minmax(0, 13fr) minmax(0, 7fr);
    gap: 1.2rem;
  }
}
.field {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0.3rem 0.6rem;
}
.hints {
  grid-column: 1 / -1;
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 0 1rem;
}
/* Who has no keyboard needs no word about keys. */
@media (hover: none) {
  .keys {
    display: none;
  }
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
</style>
