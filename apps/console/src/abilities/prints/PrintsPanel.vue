<script setup lang="ts">
import { printerInWords } from '@porch/client';
import { NButton } from 'naive-ui';
import { computed } from 'vue';
import { useAttempt } from '../../use-attempt.ts';
import { reasonInWords, w } from '../../words/index.ts';
import AskFirst from '../AskFirst.vue';
import type { ConsoleSession } from '../console-ability.ts';
import PrintoutRow from './PrintoutRow.vue';
import { printsTool } from './tool.ts';

/* What is printed at their computer: the printer there, and everything that came out of it here. */
const props = defineProps<{ session: ConsoleSession }>();
const { technician, printer, documents, mayTake, ask } = props.session.tool(printsTool);
const { trouble, isBusy, attempt } = useAttempt();
const standing = computed(() => {
  if (!printer.value) return w.value.prints.printer.opening;
  return printerInWords({ ...printer.value, why: reasonInWords(printer.value.why) }, w.value.prints);
});
/** Printed for somebody here, and gone before it arrived. */
const lost = computed(() =>
  Object.entries(props.session.state.value.slices.prints.documents).filter(
    ([, { stage, toId }]) => stage === 'lost' && toId === props.session.connection.participantId,
  ),
);
const askThem = () => attempt(ask);
</script>

<template>
  <section class="drawer-panel" :aria-label="w.prints.title" data-test="prints">
    <h1>{{ w.prints.title }}</h1>
    <p class="quiet">{{ w.prints.about({ computer: session.theirComputer.value }) }}</p>
    <AskFirst
      v-if="!mayTake"
      :says="w.prints.mayNot"
      :ask="w.prints.ask"
      :is-busy="isBusy"
      data-test="ask-for-prints"
      @asked="askThem"
    />
    <p v-else class="acts" role="status" data-test="printer">
      <span>{{ standing }}</span>
      <NButton v-if="printer?.is === 'broken'" size="small" @click="technician.lookAgain()">{{
        w.prints.tryAgain
      }}</NButton>
    </p>
    <ul v-if="documents.length || lost.length" data-test="printouts">
      <PrintoutRow v-for="one in documents" :key="one.printId" :printout="one" @fetch="technician.fetch(one.printId)" />
      <li v-for="[printId, { title }] in lost" :key="printId">
        <b class="name">{{ title ?? w.ledger.erased }}</b>
        <span class="quiet">{{ w.prints.lost }}</span>
      </li>
    </ul>
    <p v-else-if="mayTake" class="quiet">{{ w.prints.nothing }}</p>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0.4rem 0;
  padding: 0;
  display: grid;
  gap: 0.6rem;
}
.name {
  display: block;
  overflow-wrap: anywhere;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 0.6rem;
  align-items: center;
}
</style>
