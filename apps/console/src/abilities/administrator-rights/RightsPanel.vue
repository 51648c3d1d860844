<script setup lang="ts">
import { inBackground, leaveStanding } from '@porch/client';
import { MAX_RIGHTS_CHARACTERS, type RightsWay } from '@porch/core';
import { NButton, NInput } from 'naive-ui';
import { computed, ref, watch } from 'vue';
import { toTheMinute } from '../../times.ts';
import { useAttempt } from '../../use-attempt.ts';
import { w } from '../../words/index.ts';
import CarefulLeave from '../CarefulLeave.vue';
import AskFirst from '../AskFirst.vue';
import type { ConsoleSession } from '../console-ability.ts';
import { rightsTool } from './tool.ts';

/* Administrator rights at their computer: what for, in which way, until when; and given back. */
const props = defineProps<{ session: ConsoleSession }>();
const { technician, ways, asked, needsSecond, isTyped, raised, mayRaise, ask, look, raise, forget, lower } =
  props.session.tool(rightsTool);
const what = ref(asked.value?.what ?? '');
const { trouble, isBusy, attempt } = useAttempt((why) => w.value.administratorRights.refusedThere(why));
watch(
  mayRaise,
  (may) => {
    if (may) inBackground('how rights could be raised', attempt(look));
  },
  { immediate: true },
);
const canAsk = computed(() => what.value.trim() !== '' && !isBusy.value);
const asFor = (way: RightsWay) => attempt(() => raise(what.value.trim(), way));
const askToRaise = () => attempt(ask);
/** Where the device's label asks for care, or the desk gives leave with a second person, that comes first. */
const leaveFor = computed(() =>
  asked.value && (needsSecond.value || ways.value?.isCareful) ? asked.value : undefined,
);
const isCleared = computed(
  () => !leaveFor.value || leaveStanding(props.session.state.value, leaveFor.value.raiseId) === 'cleared',
);
const askLeave = async (reason: string) => {
  if (leaveFor.value) await technician.askLeave(leaveFor.value, reason || undefined);
};
const goOn = () => leaveFor.value && asFor(leaveFor.value.way);
</script>

<template>
  <section class="drawer-panel" :aria-label="w.administratorRights.title" data-test="rights">
    <h1>{{ w.administratorRights.title }}</h1>
    <template v-if="raised">
      <p role="status" data-test="rights-raised">
        <b>{{ w.administratorRights.until({ time: toTheMinute(raised.untilMs ?? 0) }) }}</b>
      </p>
      <p class="quiet">{{ w.administratorRights.forWhat }}</p>
      <p>
        <NButton size="small" data-test="lower-rights" @click="lower">{{ w.administratorRights.giveBack }}</NButton>
      </p>
    </template>
    <template v-else>
      <p class="quiet">{{ w.administratorRights.about({ computer: session.theirComputer.value }) }}</p>
      <AskFirst
        v-if="!mayRaise"
        :says="w.administratorRights.mayNot"
        :ask="w.administratorRights.ask"
        :is-busy="isBusy"
        data-test="ask-for-rights"
        @asked="askToRaise"
      />
      <template v-else-if="leaveFor">
        <p>{{ w.administratorRights.wanted({ what: leaveFor.what }) }}</p>
        <CarefulLeave
          :key="leaveFor.raiseId"
          :session="session"
          :act-id="leaveFor.raiseId"
          :ask-leave="askLeave"
          :about="ways?.isCareful ? undefined : w.administratorRights.second"
        />
        <p class="acts">
          <NButton size="small" :disabled="isBusy" data-test="leave-rights" @click="forget">{{
            w.administratorRights.leaveIt
          }}</NButton>
          <NButton size="small" type="primary" :disabled="!isCleared || isBusy" data-test="raise-now" @click="goOn">{{
            w.administratorRights.raise
          }}</NButton>
        </p>
      </template>
      <form v-else class="raise" @submit.prevent>
        <label
          >{{ w.administratorRights.what }}
          <NInput
            v-model:value="what"
            size="small"
            :disabled="isBusy"
            :maxlength="MAX_RIGHTS_CHARACTERS"
            placeholder=""
            data-test="rights-what"
          />
        </label>
        <p v-if="ways && !ways.password && !ways.installed" role="status">{{ w.administratorRights.noWay }}</p>
        <p v-else class="acts">
          <NButton
            v-if="ways?.password"
            size="small"
            :disabled="!canAsk"
            data-test="raise-by-password"
            @click="asFor('password')"
            >{{ w.administratorRights.byPassword }}</NButton
          >
          <NButton
            v-if="ways?.installed"
            size="small"
            :disabled="!canAsk"
            data-test="raise-by-desk"
            @click="asFor('desk')"
            >{{ w.administratorRights.byDesk }}</NButton
          >
        </p>
        <p v-if="isTyped" role="status" class="quiet">{{ w.administratorRights.isTyped }}</p>
      </form>
    </template>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped>
.raise,
label {
  display: grid;
  gap: 0.4rem;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 0.6rem;
  align-items: center;
}
</style>
