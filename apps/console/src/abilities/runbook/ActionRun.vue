<script setup lang="ts">
import { leaveStanding } from '@porch/client';
import { COVERED, valueFaults, valuesFor } from '@porch/core';
import { NButton } from 'naive-ui';
import { computed, ref } from 'vue';
import { useAttempt } from '../../use-attempt.ts';
import { w } from '../../words/index.ts';
import CarefulLeave from '../CarefulLeave.vue';
import AskFirst from '../AskFirst.vue';
import type { ConsoleSession } from '../console-ability.ts';
import ActionPrinted from './ActionPrinted.vue';
import ActionValues from './ActionValues.vue';
import { runbookTool } from './tool.ts';

/* A script or a file: what it is given, exactly what would be done, and what came of it. */
const props = defineProps<{ session: ConsoleSession }>();
const emit = defineEmits<{ takeBack: [name: string, values: Readonly<Record<string, string>>] }>();
const { technician, inHand, mayRun, ask, look, run, put } = props.session.tool(runbookTool);
const action = computed(() => inHand.value?.action);
const looked = computed(() => inHand.value?.looked);
const now = computed(() => inHand.value?.now);
const values = ref<Record<string, string>>(
  inHand.value ? { ...valuesFor(inHand.value.action, inHand.value.values) } : {},
);
const areFaultsShown = ref(false);
const { trouble, isBusy, attempt } = useAttempt((why) => w.value.runbook.refusedThere(why));

const seeWhat = () => {
  areFaultsShown.value = true;
  if (action.value && !Object.keys(valueFaults(action.value, values.value)).length)
    return attempt(() => look({ ...values.value }));
  return undefined;
};
/** As it goes there; what is secret is not shown again. */
const given = computed(() =>
  (action.value?.parameters ?? []).flatMap(({ name, label, kind }) => {
    const value = inHand.value?.values[name] ?? '';
    return value === '' ? [] : [[label, kind === 'secret' ? COVERED : value] as const];
  }),
);
/** Where the device's label asks for care the desk has its say first. */
const isCleared = computed(() => {
  const { runId = '', isCareful = false } = looked.value ?? {};
  return !isCareful || leaveStanding(props.session.state.value, runId) === 'cleared';
});
const askLeave = async (reason: string) => {
  if (looked.value) await technician.askLeave(looked.value, reason);
};
/** A choice is run once. What was only looked at is not kept waiting over there. */
const again = () =>
  inHand.value && put({ id: inHand.value.id, action: inHand.value.action, values: inHand.value.values });
const askToRun = () => attempt(ask);
</script>

<template>
  <template v-if="action">
    <h2>{{ action.title }}</h2>
    <p v-if="action.about">{{ action.about }}</p>
    <p v-if="action.isRisky" class="quiet">{{ w.runbook.risky }}</p>
    <form v-if="!looked" class="values" @submit.prevent="seeWhat">
      <ActionValues v-model="values" :action="action" :are-faults-shown="areFaultsShown" />
      <AskFirst
        v-if="!mayRun"
        :says="w.runbook.mayNot"
        :ask="w.runbook.ask"
        :is-busy="isBusy"
        data-test="ask-to-run"
        @asked="askToRun"
      />
      <p v-else>
        <NButton attr-type="submit" type="primary" size="small" :loading="isBusy" data-test="look-at-it">{{
          w.runbook.look
        }}</NButton>
      </p>
    </form>
    <section v-else-if="!now" role="group" :aria-label="w.runbook.run" data-test="looked">
      <p>
        <b>{{ w.runbook.exactly({ computer: session.theirComputer.value }) }}</b>
      </p>
      <p v-if="looked.command.length">{{ w.runbook.command({ command: looked.command.join(' ') }) }}</p>
      <p>{{ w.runbook[looked.command.length ? 'at' : 'put']({ place: looked.place }) }}</p>
      <p v-if="looked.isRaised" data-test="as-root">{{ w.runbook.asRoot }}</p>
      <p v-for="[label, value] in given" :key="label" data-test="given">{{ label }}: {{ value }}</p>
      <pre tabindex="0" role="region" :aria-label="w.runbook.runs" data-test="what-runs">{{ action.body }}</pre>
      <p v-if="looked.isReplacing">{{ w.runbook.replaces }}</p>
      <p class="quiet">{{ w.runbook[looked.isSaved ? 'saved' : 'notSaved'] }}</p>
      <p v-if="looked.command.length" class="quiet">{{ w.runbook[looked.mayGoOn ? 'mayGoOn' : 'allEnds'] }}</p>
      <CarefulLeave v-if="looked.isCareful" :session="session" :act-id="looked.runId" :ask-leave="askLeave" />
      <p class="acts">
        <NButton size="small" data-test="leave-action" @click="again">{{ w.runbook.leaveIt }}</NButton>
        <NButton size="small" type="primary" :disabled="!isCleared || !mayRun" data-test="run-action" @click="run">{{
          w.runbook.run
        }}</NButton>
      </p>
    </section>
    <ActionPrinted
      v-else
      :name="action.name"
      :now="now"
      :begun-at-ms="inHand?.begunAtMs ?? 0"
      :expected-seconds="action.expectedSeconds"
      @stop="technician.stop(looked)"
    />
    <p v-if="now?.ended || now?.refused !== undefined" class="acts">
      <NButton size="small" data-test="run-again" @click="again">{{ w.runbook.again }}</NButton>
      <NButton
        v-if="action.undo"
        size="small"
        data-test="take-back-action"
        @click="emit('takeBack', action.undo, inHand?.values ?? {})"
        >{{ w.runbook.takeBack({ title: action.undo }) }}</NButton
      >
    </p>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
  </template>
</template>

<style scoped>
h2 {
  font-size: 1rem;
  margin: 0;
}
p {
  margin: 0.2rem 0;
  overflow-wrap: anywhere;
}
.values {
  display: grid;
  gap: 0.4rem;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  align-items: center;
}
pre {
  max-height: 14rem;
  overflow: auto;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  font-size: 0.8rem;
  padding: 0.4rem;
  margin: 0.2rem 0;
  border: 1px solid var(--line);
}
</style>
