<script setup lang="ts">
import { verifyRows } from '@porch/client';
import { tellToTechnicians, type ToldEntry } from '@porch/core';
import { decodeLedgerRow, readLedgerRow, type AsideMessage } from '@porch/wire';
import { NAlert, NSpin } from 'naive-ui';
import { onMounted, ref } from 'vue';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { clock, exactly } from '../../times.ts';

const props = defineProps<{ id: string }>();
const { rest } = useDesk();
const told = ref<ToldEntry[]>();
const asides = ref<readonly AsideMessage[]>([]);
const verdict = ref('');
const trouble = ref('');

onMounted(async () => {
  try {
    const view = await rest.ledger(props.id);
    const whole = verifyRows(view.rows);
    verdict.value = whole.isWhole
      ? `The chain holds: ${whole.rows} entries${whole.erased ? `, ${whole.erased} with erased words` : ''}. Head ${whole.rows}:${whole.head.slice(0, 16)}…`
      : `The chain is broken at entry ${whole.atSeq}: ${whole.fault}.`;
    asides.value = view.asides;
    told.value = tellToTechnicians(view.rows.map(decodeLedgerRow).map(readLedgerRow));
  } catch (error) {
    trouble.value = inWords(error);
  }
});
</script>

<template>
  <main class="past">
    <p><RouterLink to="/past-sessions">Past sessions</RouterLink></p>
    <h1>Ledger</h1>
    <NAlert v-if="trouble" type="error" :show-icon="false" role="alert">{{ trouble }}</NAlert>
    <NSpin v-else-if="!told" description="Reading the ledger" />
    <template v-else>
      <p data-test="verdict">{{ verdict }}</p>
      <ol>
        <li v-for="e in told" :key="e.seq" :title="exactly(e.atMs)">
          <span class="quiet tabular">{{ clock(e.atMs) }}</span> {{ e.sentence }}
        </li>
      </ol>
      <template v-if="asides.length">
        <h2>Asides, for colleagues only</h2>
        <ul>
          <li v-for="a in asides" :key="a.seq">
            <span class="quiet tabular">{{ clock(a.atMs) }}</span> {{ a.name }}: {{ a.text }}
          </li>
        </ul>
      </template>
    </template>
  </main>
</template>

<style scoped>
.past {
  max-width: 60rem;
  margin: 0 auto;
  padding: 1rem;
}
li {
  padding: 0.1rem 0;
  overflow-wrap: anywhere;
}
</style>
