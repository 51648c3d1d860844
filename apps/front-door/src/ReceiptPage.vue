<script setup lang="ts">
import type { ReceiptView } from '@porch/wire';
import { onMounted, shallowRef, ref } from 'vue';
import { goTo, inWords, rest } from './door.ts';

const receipt = shallowRef<ReceiptView>();
const trouble = ref('');
const time = (ms: number) => new Date(ms).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' });

onMounted(async () => {
  try {
    receipt.value = await rest.receipt();
  } catch (error) {
    trouble.value = inWords(error);
  }
});
</script>

<template>
  <main>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
    <p v-else-if="!receipt" role="status">Writing your receipt …</p>
    <template v-else>
      <h1>
        {{ receipt.phase === 'ended' || receipt.phase === 'logged' ? 'The session has ended' : 'The session so far' }}
      </h1>
      <p>Nobody sees your computer any longer. This is your receipt; print it or keep the page.</p>
      <section v-if="receipt.isSuspect" class="card asks">
        <h2>You did well to stop</h2>
        <p>The desk has been told. If somebody is on the telephone with you now, hang up.</p>
        <p v-if="receipt.deskPhone">
          The number of {{ receipt.deskName }} is <b>{{ receipt.deskPhone }}</b>. Call it yourself if you need help.
        </p>
      </section>
      <section class="card">
        <p>
          <b>{{ receipt.deskName }}</b>: {{ receipt.technicians.join(', ')
          }}<template v-if="receipt.ticketRef">, ticket {{ receipt.ticketRef }}</template>
        </p>
        <p v-if="receipt.startedAtMs">
          {{ new Date(receipt.startedAtMs).toLocaleString() }}, {{ receipt.minutes }} min
        </p>
        <ol data-test="receipt">
          <li v-for="(line, i) in receipt.lines" :key="i">
            <span class="quiet tabular">{{ time(line.atMs) }}</span> {{ line.sentence }}
          </li>
        </ol>
        <p class="quiet head">
          Ledger head {{ receipt.head.seq }}:{{ receipt.head.hash }}<br />With it anybody can check later that nothing
          of this was changed.
        </p>
      </section>
      <p><a href="/help" @click.prevent="goTo('/help')">Ask for help again</a></p>
    </template>
  </main>
</template>

<style scoped>
ol {
  padding-left: 1.2rem;
}
.head {
  overflow-wrap: anywhere;
  font-size: 0.85rem;
}
</style>
