<script setup lang="ts">
import { inBackground } from '@porch/client';
import { comingBackPermissions, daysLeft, rulesOf } from '@porch/core';
import type { DeviceView, DeviceVisitView } from '@porch/wire';
import { NAlert, NButton, NInput, NSpin } from 'naive-ui';
import { computed, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { ago, exactly, useNow } from '../../times.ts';
import { usePorch } from '../porch/usePorch.ts';
import { deviceStates, endedWords } from './device-words.ts';

const { rest } = useDesk();
const { porch, isOffline } = usePorch();
const router = useRouter();
const now = useNow();
const words = ref('');
/** With words the service looks, also among those that have ended; otherwise the porch's list is live by itself. */
const found = ref<DeviceView[]>();
const visits = ref<{ id: string; rows: DeviceVisitView[] }>();
const forgetting = ref<string>();
const trouble = ref('');
const devices = computed(() => (words.value.trim() ? found.value : porch.value?.devices));
const canVisit = computed(
  () => porch.value !== undefined && !comingBackPermissions.some((one) => porch.value?.mayNotAsk.includes(one)),
);

async function attempt(work: () => Promise<void>): Promise<void> {
  trouble.value = '';
  await work().catch((error: unknown) => (trouble.value = inWords(error)));
}
let asked = 0;
// Looked up again whenever anything on the porch changes, so that what is found is live, too.
watch([words, porch], () => {
  if (!words.value.trim()) return;
  const mine = ++asked;
  inBackground(
    'looking for devices',
    attempt(async () => {
      const rows = await rest.devices(words.value);
      // An answer that comes after a newer question is thrown away.
      if (mine === asked) found.value = rows;
    }),
  );
});
const visit = (device: DeviceView) =>
  attempt(async () => {
    const { session } = await rest.start({ deviceId: device.id });
    await router.push(`/session/${session.id}`);
  });
const toggleVisits = (device: DeviceView) =>
  attempt(async () => {
    if (visits.value?.id === device.id) visits.value = undefined;
    else visits.value = { id: device.id, rows: await rest.deviceVisits(device.id) };
  });
const forget = (device: DeviceView) =>
  attempt(async () => {
    await rest.forgetDevice(device.id);
    forgetting.value = undefined;
  });
const allowedWords = (device: DeviceView) => device.allowed.map((p) => rulesOf(p).label.toLowerCase()).join(', ');
</script>

<template>
  <main class="devices">
    <h1>Devices</h1>
    <p class="quiet">
      Computers whose owners let the desk come back. A visit needs the passphrase that was chosen there, or a yes of
      whoever sits there.
    </p>
    <NInput
      v-model:value="words"
      placeholder="Device or customer"
      :input-props="{ 'aria-label': 'Search devices' }"
      data-test="device-search"
    />
    <NAlert v-if="trouble" type="error" :show-icon="false" role="alert">{{ trouble }}</NAlert>
    <NAlert v-if="isOffline" type="warning" :show-icon="false"
      >The service cannot be reached just now; trying again. This list may be old.</NAlert
    >
    <NSpin v-if="!devices && !trouble" description="Looking which devices are on" />
    <p v-else-if="devices && !devices.length" class="quiet">
      {{
        words.trim()
          ? 'No device fits.'
          : 'No customer lets the desk come back yet. In a session, ask under More: Connect to this computer later.'
      }}
    </p>
    <ul v-else-if="devices" class="rows">
      <li v-for="device in devices" :key="device.id" class="card" :data-test="`device-${device.name}`">
        <div>
          <b>{{ device.name }}</b> · {{ device.customerName }}
          <p :data-state="device.state">
            <span aria-hidden="true">{{ deviceStates[device.state].sign }}</span>
            {{ device.ended ? endedWords[device.ended.how] : deviceStates[device.state].word
            }}<span v-if="device.state === 'offline' && device.seenAtMs" :title="exactly(device.seenAtMs)"
              >, seen {{ ago(device.seenAtMs, now) }}</span
            >
          </p>
          <p class="quiet">
            {{ allowedWords(device) }} · {{ daysLeft(device.untilMs, now) }} days left ·
            {{ device.asksEachVisit ? 'asks before each visit' : 'may be visited while nobody is there' }}
          </p>
          <p class="quiet">
            <template v-if="device.lastVisit"
              >Last visit <span :title="exactly(device.lastVisit.atMs)">{{ ago(device.lastVisit.atMs, now) }}</span> by
              {{ device.lastVisit.technicianName }}</template
            ><template v-else>No visit yet</template>
          </p>
        </div>
        <div v-if="!device.ended" class="buttons">
          <NButton
            type="primary"
            :disabled="!canVisit || device.state === 'offline'"
            :aria-label="`Visit ${device.name}`"
            @click="visit(device)"
            >Visit</NButton
          >
          <NButton
            :aria-expanded="visits?.id === device.id"
            :aria-label="`Visits of ${device.name}`"
            @click="toggleVisits(device)"
            >Visits</NButton
          >
          <template v-if="forgetting === device.id">
            <NButton type="error" :aria-label="`Give up ${device.name} for good`" @click="forget(device)"
              >Give up for good</NButton
            >
            <NButton @click="forgetting = undefined">Keep</NButton>
          </template>
          <NButton v-else :disabled="!canVisit" :aria-label="`Give up ${device.name}`" @click="forgetting = device.id"
            >Give up …</NButton
          >
        </div>
        <ul v-if="visits?.id === device.id" class="visits" :aria-label="`Visits of ${device.name}`">
          <li v-if="!visits.rows.length">No visit yet.</li>
          <li v-for="row in visits.rows" :key="row.sessionId">
            <RouterLink :to="`/past-sessions/${row.sessionId}`">{{ exactly(row.atMs) }}</RouterLink> ·
            {{ row.technicianName }} · {{ row.purpose }}{{ row.outcome ? ` · ${row.outcome}` : '' }}
          </li>
        </ul>
      </li>
    </ul>
  </main>
</template>

<style scoped>
.devices {
  max-width: 52rem;
  margin: 0 auto;
  padding: 1rem;
  display: grid;
  gap: 1rem;
}
.card {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0.8rem;
  align-items: center;
}
.card p {
  margin: 0.15rem 0 0;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  justify-content: end;
}
.visits {
  grid-column: 1 / -1;
  margin: 0;
  padding-left: 1.2rem;
}
@media (max-width: 600px) {
  .card {
    grid-template-columns: 1fr;
  }
  .buttons {
    justify-content: start;
  }
}
</style>
