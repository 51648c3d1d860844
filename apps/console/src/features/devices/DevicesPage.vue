<script setup lang="ts">
import { Said } from '@porch/pages';
import { inBackground } from '@porch/client';
import { comingBackPermissions, daysLeft, techniciansAct } from '@porch/core';
import type { DeviceView, DeviceVisitView } from '@porch/wire';
import { NAlert, NButton, NInput, NSpin } from 'naive-ui';
import { computed, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { ago, exactly, useNow } from '../../times.ts';
import { usePorch } from '../porch/usePorch.ts';
import { deviceSigns } from './device-signs.ts';
import { ledger, speech, w } from '../../words/index.ts';

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
const detailsOf = ({ allowed, untilMs, asksEachVisit }: DeviceView) => {
  const { devices: said } = w.value;
  return [
    speech.value.list(allowed.map((permission) => techniciansAct(permission, ledger.value))),
    said.daysLeft({ days: daysLeft(untilMs, now.value) }),
    asksEachVisit ? said.asksEach : said.asksNone,
  ].join(' · ');
};
const visitOf = ({ technicianName, purpose, outcome }: DeviceVisitView) => [
  technicianName,
  purpose,
  ...(outcome ? [w.value.common.outcomes[outcome]] : []),
];
function stateOf({ ended, state, seenAtMs }: DeviceView): string {
  const { devices: said } = w.value;
  if (ended) return said.ended[ended.how];
  if (state === 'offline' && seenAtMs) return said.offSince({ when: ago(seenAtMs, now.value) });
  return said.states[state];
}
</script>

<template>
  <main class="devices">
    <h1>{{ w.devices.title }}</h1>
    <p class="quiet">
      {{ w.devices.about }}
    </p>
    <NInput
      v-model:value="words"
      :placeholder="w.devices.find"
      :input-props="{ 'aria-label': w.devices.search }"
      data-test="device-search"
    />
    <NAlert v-if="trouble" type="error" :show-icon="false" role="alert">{{ trouble }}</NAlert>
    <NAlert v-if="isOffline" type="warning" :show-icon="false">{{ w.common.offline }}</NAlert>
    <NSpin v-if="!devices && !trouble" :description="w.devices.looking" />
    <p v-else-if="devices && !devices.length" class="quiet">
      {{ words.trim() ? w.devices.noneFits : w.devices.none }}
    </p>
    <ul v-else-if="devices" class="rows">
      <li v-for="device in devices" :key="device.id" class="card" :data-test="`device-${device.name}`">
        <div>
          <b>{{ device.name }}</b> · {{ device.customerName }}
          <p :data-state="device.state">
            <span aria-hidden="true">{{ deviceSigns[device.state] }}</span>
            {{ ' ' }}<span :title="device.seenAtMs ? exactly(device.seenAtMs) : undefined">{{ stateOf(device) }}</span>
          </p>
          <p class="quiet">
            {{ detailsOf(device) }}
          </p>
          <p class="quiet">
            <Said
              v-if="device.lastVisit"
              :of="
                w.devices.lastVisit({
                  when: ago(device.lastVisit.atMs, now),
                  name: device.lastVisit.technicianName,
                })
              "
              ><template #when="{ text }"
                ><span :title="exactly(device.lastVisit.atMs)">{{ text }}</span></template
              ></Said
            ><template v-else>{{ w.devices.noVisit }}</template>
          </p>
        </div>
        <div v-if="!device.ended" class="buttons">
          <NButton
            type="primary"
            :disabled="!canVisit || device.state === 'offline'"
            :aria-label="w.devices.visitOf({ device: device.name })"
            @click="visit(device)"
            >{{ w.devices.visit }}</NButton
          >
          <NButton
            :aria-expanded="visits?.id === device.id"
            :aria-label="w.devices.visitsOf({ device: device.name })"
            @click="toggleVisits(device)"
            >{{ w.devices.visits }}</NButton
          >
          <template v-if="forgetting === device.id">
            <NButton
              type="error"
              :aria-label="w.devices.giveUpNowOf({ device: device.name })"
              @click="forget(device)"
              >{{ w.devices.giveUpNow }}</NButton
            >
            <NButton @click="forgetting = undefined">{{ w.devices.keep }}</NButton>
          </template>
          <NButton
            v-else
            :disabled="!canVisit"
            :aria-label="w.devices.giveUpOf({ device: device.name })"
            @click="forgetting = device.id"
            >{{ w.devices.giveUp }}</NButton
          >
        </div>
        <ul v-if="visits?.id === device.id" class="visits" :aria-label="w.devices.visitsOf({ device: device.name })">
          <li v-if="!visits.rows.length">{{ w.devices.noVisit }}</li>
          <li v-for="row in visits.rows" :key="row.sessionId">
            <RouterLink :to="`/past-sessions/${row.sessionId}`">{{ exactly(row.atMs) }}</RouterLink> ·
            {{ visitOf(row).join(' · ') }}
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
