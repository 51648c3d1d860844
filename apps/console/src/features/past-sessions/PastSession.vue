<script setup lang="ts">
import { Folded } from '@porch/pages';
import { verifyRows } from '@porch/client';
import { tellToTechnicians, type LedgerEntry } from '@porch/core';
import { decodeLedgerRow, readLedgerRow, type AsideMessage } from '@porch/wire';
import { NAlert, NSpin } from 'naive-ui';
import { computed, onMounted, ref, shallowRef } from 'vue';
import { consoleAbilities } from '../../abilities/index.ts';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { clock, exactly } from '../../times.ts';
import { ledger, w } from '../../words/index.ts';

const props = defineProps<{ id: string }>();
const { rest } = useDesk();
const entries = shallowRef<readonly LedgerEntry[]>();
const told = computed(() => entries.value && tellToTechnicians(entries.value, ledger.value));
const asides = ref<readonly AsideMessage[]>([]);
const whole = shallowRef<ReturnType<typeof verifyRows>>();
const verdict = computed(() => {
  const { pastSessions: said } = w.value;
  const { value } = whole;
  if (!value) return '';
  if (!value.isWhole) return said.broken[value.fault]({ seq: value.atSeq });
  const { rows, erased } = value;
  const head = `${rows}:${value.head.slice(0, 16)}`;
  return erased ? said.holdsErased({ rows, erased, head }) : said.holds({ rows, head });
});
const trouble = ref('');
/** What abilities put into its records. */
const kept = consoleAbilities.flatMap(({ name, kept: view }) => (view ? [{ name, view }] : []));

onMounted(async () => {
  try {
    const view = await rest.ledger(props.id);
    whole.value = verifyRows(view.rows);
    asides.value = view.asides;
    entries.value = view.rows.map(decodeLedgerRow).map(readLedgerRow);
  } catch (error) {
    trouble.value = inWords(error);
  }
});
</script>

<template>
  <main class="past">
    <p>
      <RouterLink to="/past-sessions">{{ w.pastSessions.title }}</RouterLink>
    </p>
    <h1>{{ w.pastSessions.ledger }}</h1>
    <NAlert v-if="trouble" type="error" :show-icon="false" role="alert">{{ trouble }}</NAlert>
    <NSpin v-else-if="!told" :description="w.pastSessions.readingLedger" />
    <template v-else>
      <p data-test="verdict">{{ verdict }}</p>
      <ol>
        <li v-for="e in told" :key="e.seq" :title="exactly(e.atMs)">
          <span class="quiet tabular">{{ clock(e.atMs) }}</span> <Folded :text="e.sentence" />
        </li>
      </ol>
      <component :is="one.view" v-for="one in kept" :id="id" :key="one.name" />
      <template v-if="asides.length">
        <h2>{{ w.pastSessions.asides }}</h2>
        <ul>
          <li v-for="a in asides" :key="a.seq">
            <span class="quiet tabular">{{ clock(a.atMs) }}</span>
            {{ w.pastSessions.aside({ name: a.name, text: a.text }) }}
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
