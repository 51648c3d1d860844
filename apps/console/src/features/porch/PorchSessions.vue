<script setup lang="ts">
import { formatCode, purposeInWords } from '@porch/core';
import type { PorchView, SessionView } from '@porch/wire';
import { NButton, NTable } from 'naive-ui';
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { ago, countDown, exactly, useNow } from '../../times.ts';
import { oneLine } from './one-line.ts';
import { ledger, w } from '../../words/index.ts';

const props = defineProps<{ porch: PorchView; receivedAtMs: number }>();
const router = useRouter();
const now = useNow();
const told = ref('');
/** What is booked stands under its day until somebody comes in. */
const sessions = computed(() => {
  const booked = new Set(props.porch.bookings.map((b) => b.sessionId));
  return props.porch.sessions.filter((s) => s.phase !== 'prepared' || !booked.has(s.id));
});
function deviceOf({ deviceId, ticketRef }: SessionView): string {
  const own = props.porch.devices.find((d) => d.id === deviceId)?.name;
  const ticket = props.porch.tickets.find((t) => t.ref === ticketRef);
  return oneLine(own ?? ticket?.asset, ticket?.assetLabel);
}
const aboutOf = ({ phase, ticketRef, purpose }: SessionView) =>
  oneLine(w.value.common.phases[phase], ticketRef, purposeInWords(purpose, ledger.value));
const openOf = ({ customerName: name }: SessionView) =>
  name ? w.value.porch.openOf({ name }) : w.value.porch.openOfNobody;

async function copy(digits: string): Promise<void> {
  const { porch } = w.value;
  told.value = await navigator.clipboard.writeText(formatCode(digits)).then(
    () => porch.codeCopied({ code: formatCode(digits) }),
    // A browser may forbid it; what can be read can be typed.
    () => porch.codeNotCopied,
  );
}
</script>

<template>
  <section aria-labelledby="mine">
    <h2 id="mine">{{ w.porch.mine }}</h2>
    <p v-if="!sessions.length" class="quiet">{{ w.porch.mineEmpty }}</p>
    <NTable v-else size="small" class="porch-rows" data-test="own-sessions">
      <thead class="heard">
        <tr>
          <th scope="col" class="who">{{ w.waiting.columns.who }}</th>
          <th scope="col" class="device">{{ w.waiting.columns.device }}</th>
          <th scope="col">{{ w.waiting.columns.about }}</th>
          <th scope="col" class="code-cell">{{ w.porch.code }}</th>
          <th scope="col" class="time">{{ w.waiting.columns.since }}</th>
          <th scope="col" class="acts">{{ w.waiting.columns.acts }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="session in sessions" :key="session.id" data-row tabindex="-1" :aria-label="openOf(session)">
          <td class="who">
            <b>{{ session.customerName ?? w.common.nobodyYet }}</b>
          </td>
          <td class="device" :title="deviceOf(session)">{{ deviceOf(session) }}</td>
          <td :title="aboutOf(session)">{{ aboutOf(session) }}</td>
          <td class="code-cell">
            <button
              v-if="session.code"
              class="code-now"
              data-copy
              :title="w.porch.copyCode({ code: formatCode(session.code.digits) })"
              :aria-label="w.porch.copyCode({ code: formatCode(session.code.digits) })"
              @click="copy(session.code.digits)"
            >
              {{ formatCode(session.code.digits) }}
            </button>
          </td>
          <td class="time tabular" :title="exactly(session.changedAtMs)">
            {{
              session.code
                ? w.common.left({ time: countDown(session.code.remainingMs - (now - receivedAtMs)) })
                : ago(session.changedAtMs, now)
            }}
          </td>
          <td class="acts">
            <NButton
              size="tiny"
              data-main
              :aria-label="openOf(session)"
              @click="router.push(`/session/${session.id}`)"
              >{{ w.porch.open }}</NButton
            >
          </td>
        </tr>
      </tbody>
    </NTable>
    <p v-if="told" role="status">{{ told }}</p>
  </section>
</template>

<style scoped>
.who {
  width: 16%;
}
.device {
  width: 15%;
}
.code-cell {
  width: 12.4rem;
}
.time {
  width: 7.6rem;
}
.acts {
  width: 4.4rem;
}
/* Read aloud from across a desk: twice as large as what stands around it. */
.code-now {
  font: inherit;
  font-size: 1.9rem;
  line-height: 1;
  font-weight: 700;
  letter-spacing: 0.04em;
  font-variant-numeric: tabular-nums;
  color: inherit;
  background: none;
  border: 0;
  padding: 0;
  cursor: copy;
}
p {
  margin: 0;
}
</style>
