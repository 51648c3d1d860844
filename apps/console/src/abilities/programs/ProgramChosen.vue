<script setup lang="ts">
import { actedInWords, hitInWords, leaveStanding, programCell, type PreparedAct } from '@porch/client';
import { programActs, programColumns, type ProgramAct, type ProgramList, type ProgramRow } from '@porch/core';
import { NButton } from 'naive-ui';
import { computed, onBeforeUnmount, shallowRef, watch } from 'vue';
import { useAttempt } from '../../use-attempt.ts';
import { speech, w } from '../../words/index.ts';
import AskFirst from '../AskFirst.vue';
import type { ConsoleSession } from '../console-ability.ts';
import CarefulLeave from '../CarefulLeave.vue';
import { programsTool } from './tool.ts';

/* The row that is chosen, whole, and what can be done to it: what it hits is said before it is done. */
const props = defineProps<{ session: ConsoleSession; list: ProgramList; row: ProgramRow }>();
const { technician, mayChange, askChange } = props.session.tool(programsTool);
const prepared = shallowRef<PreparedAct>();
const { isBusy, told, trouble, attempt } = useAttempt((why) => w.value.programs.refused(why));
const cells = computed(() =>
  programColumns[props.list].flatMap((column) => {
    const value = programCell(props.row, column, w.value.programs, speech.value);
    return value === '' ? [] : [[column, value] as const];
  }),
);
const guard = computed(() => ('guard' in props.row ? props.row.guard : undefined));
const acts = computed<readonly ProgramAct[]>(() => {
  if (props.list === 'processes') return programActs.processes;
  return props.list === 'services' ? programActs.services.filter((act) => suits(act)) : [];
});
/** What would change nothing is not offered. */
function suits(act: ProgramAct): boolean {
  const { row } = props;
  if (!('begins' in row)) return false;
  const runs = row.state === 'running' || row.state === 'starting';
  if (act === 'start') return !runs && row.begins !== 'never';
  if (act === 'stop' || act === 'restart') return runs;
  return act === 'disable' ? row.begins === 'by-itself' : row.begins === 'by-hand';
}

/** Where the device's label asks for care the desk has its say first. */
const isCleared = computed(() => {
  const { actId, isCareful } = prepared.value ?? { actId: '', isCareful: false };
  return !isCareful || leaveStanding(props.session.state.value, actId) === 'cleared';
});

/** What a service was like is saved before it is changed, where that is allowed. */
const isSaved = (act: ProgramAct) => props.list === 'services' && act !== 'restart';
const prepare = (act: ProgramAct) =>
  attempt(async () => {
    leave();
    prepared.value = await technician.prepare(act, props.row.id);
  });
async function doIt(act: PreparedAct): Promise<void> {
  let said = '';
  await attempt(
    async () => {
      prepared.value = undefined;
      said = actedInWords(await technician.act(act), act.name, w.value.programs);
    },
    () => said,
  );
}
/** What is not done after all is not kept waiting over there. */
function leave(): void {
  if (prepared.value) technician.drop(prepared.value);
  prepared.value = undefined;
}
const askLeave = async (reason: string) => {
  if (prepared.value) await technician.askLeave(prepared.value, reason);
};
const forget = () => {
  leave();
  [told.value, trouble.value] = ['', ''];
};
watch(() => props.row.id, forget);
watch(mayChange, (may) => !may && leave());
onBeforeUnmount(leave);
const ask = () => attempt(askChange);
</script>

<template>
  <section class="chosen" :aria-label="w.programs.chosen" data-test="program-chosen">
    <dl>
      <template v-for="[column, value] in cells" :key="column">
        <dt>{{ w.programs.columns[column] }}</dt>
        <dd>{{ value }}</dd>
      </template>
    </dl>
    <p v-if="guard" class="quiet" data-test="guard">{{ w.programs.guards[guard] }}</p>
    <template v-else-if="acts.length">
      <AskFirst
        v-if="!mayChange"
        :says="w.programs.mayNotChange"
        :ask="w.programs.askChange"
        :is-busy="isBusy"
        data-test="ask-change"
        @asked="ask"
      />
      <div v-else-if="prepared" class="sure" role="group" :aria-label="w.programs.acts[prepared.act]" data-test="sure">
        <p>
          <b>{{ w.programs.sure[prepared.act]({ name: prepared.name, computer: session.theirComputer.value }) }}</b>
        </p>
        <p v-if="isSaved(prepared.act)" class="quiet">
          {{ w.safePoints[session.may('make-safe-points') ? 'before' : 'noBefore'] }}
        </p>
        <p v-for="hit in hitInWords(prepared, w.programs, speech)" :key="hit" data-test="hit">{{ hit }}</p>
        <CarefulLeave v-if="prepared.isCareful" :session="session" :act-id="prepared.actId" :ask-leave="askLeave" />
        <p class="acts">
          <NButton size="small" data-test="leave-it" @click="leave">{{ w.programs.leaveIt }}</NButton>
          <NButton size="small" :disabled="!isCleared" data-test="do-it" @click="doIt(prepared)">{{
            w.programs.doIt
          }}</NButton>
        </p>
      </div>
      <p v-else class="acts">
        <NButton
          v-for="act in acts"
          :key="act"
          size="small"
          :disabled="isBusy"
          :data-test="`act-${act}`"
          @click="prepare(act)"
          >{{ w.programs.acts[act] }}</NButton
        >
      </p>
    </template>
    <p role="status" data-test="acted">{{ told }}</p>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped>
.chosen {
  overflow-wrap: anywhere;
  max-height: 45%;
  overflow: auto;
}
dl {
  margin: 0.4rem 0;
  display: grid;
  grid-template-columns: repeat(2, minmax(4.5rem, auto) minmax(0, 1fr));
  gap: 0.1rem 0.6rem;
  font-size: 0.85rem;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
}
@media (max-width: 760px) {
  dl {
    grid-template-columns: minmax(4.5rem, auto) minmax(0, 1fr);
  }
}
p {
  margin: 0.2rem 0;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  align-items: center;
}
</style>
