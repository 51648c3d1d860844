<script setup lang="ts">
import { restingPermissions } from '@porch/client';
import { consentHolderOf, restingBy, standingOf, whyNotWith } from '@porch/core';
import { NButton } from 'naive-ui';
import { computed, ref } from 'vue';
import { customersName } from '../../customers-name.ts';
import { inWords } from '../../in-words.ts';
import { speech, w } from '../../words/index.ts';
import type { ConsoleSession } from '../console-ability.ts';
import { inputTool } from '../input/tool.ts';
import { pictureTool } from '../picture/tool.ts';
import { handsOffTool } from './tool.ts';

/* Who keeps their hands off: this technician, at once; the customer, as a favour or as far as they let it be done. */
const props = defineProps<{ session: ConsoleSession }>();
const tool = props.session.tool(handsOffTool);
const input = props.session.tool(inputTool);
const { isPaused } = props.session.tool(pictureTool);
const { isWorking, mayWork } = input;
const { isStepBackAsked } = tool;
const who = computed(() => speech.value.capital(customersName(props.session.state.value)));
const trouble = ref('');
async function attempt(work: Promise<void>): Promise<void> {
  trouble.value = '';
  await work.catch((error: unknown) => (trouble.value = inWords(error)));
}

const rows = computed(() => {
  const state = props.session.state.value;
  const holder = consentHolderOf(state);
  return restingPermissions.map((permission) => {
    const standing = standingOf(state, props.session.connection.participantId, permission).name;
    const whyNot = holder && whyNotWith(holder, permission);
    return {
      permission,
      what: restingBy[permission],
      left: tool.leftOf(permission),
      standing,
      whyNot: whyNot && w.value.consent.whyNot[whyNot],
    };
  });
});
</script>

<template>
  <section class="hands-off" :aria-label="w.handsOff.title">
    <h2>{{ w.handsOff.mine }}</h2>
    <p class="row">
      <NButton v-if="isWorking" size="small" data-test="pause-input" @click="input.release()">{{
        w.input.pause
      }}</NButton>
      <NButton v-if="!isPaused" size="small" data-test="pause-view" @click="tool.pauseView()">{{
        w.picture.pauseView
      }}</NButton>
      <NButton v-else size="small" type="primary" @click="isPaused = false">{{ w.picture.lookAgain }}</NButton>
    </p>
    <p v-if="!isWorking" class="quiet">{{ w.handsOff.watching }}</p>
    <template v-if="!session.isFromBrowser">
      <h2>{{ w.handsOff.theirs }}</h2>
      <template v-if="isStepBackAsked">
        <p role="status" data-test="step-back-is">{{ w.handsOff.stepBackIs({ who }) }}</p>
        <NButton size="small" data-test="step-back-over" @click="attempt(tool.askStepBack(false))">{{
          w.handsOff.stepBackOver
        }}</NButton>
      </template>
      <NButton
        v-else
        size="small"
        :disabled="!mayWork"
        data-test="step-back"
        @click="attempt(tool.askStepBack(true))"
        >{{ w.handsOff.stepBack({ who }) }}</NButton
      >
      <template v-for="row in rows" :key="row.permission">
        <template v-if="row.standing === 'allowed'">
          <p role="status" :data-test="`resting-${row.permission}`">
            {{ row.left ? w.handsOff.resting[row.what] : w.handsOff.soon }}
            <b v-if="row.left" class="tabular" aria-live="off">{{ w.handsOff.left({ clock: row.left }) }}</b>
          </p>
          <NButton size="small" @click="attempt(session.giveBack(row.permission))">{{ w.handsOff.giveBack }}</NButton>
        </template>
        <p v-else-if="row.standing === 'waiting'" role="status">{{ w.handsOff.waiting({ who }) }}</p>
        <template v-else>
          <NButton
            size="small"
            :disabled="!mayWork || row.whyNot !== undefined"
            :data-test="`ask-${row.permission}`"
            @click="attempt(session.ask(row.permission))"
            >{{ w.handsOff.ask[row.permission]({ computer: session.theirComputer.value }) }}</NButton
          >
          <p v-if="row.whyNot" class="quiet">{{ row.whyNot }}</p>
        </template>
      </template>
      <p class="quiet">{{ w.handsOff.limits({ who }) }}</p>
    </template>
    <p v-if="trouble" role="alert" class="trouble">{{ trouble }}</p>
  </section>
</template>

<style scoped>
.hands-off {
  display: grid;
  justify-items: start;
  gap: 0.5rem;
  padding: 0.6rem 0.8rem;
}
h2 {
  margin: 0.4rem 0 0;
  font-size: 0.95rem;
}
p {
  margin: 0;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 0.35rem;
}
/* Long in some languages: it breaks instead of being cut off. */
.hands-off :deep(.n-button) {
  height: auto;
  min-height: 28px;
  padding-block: 0.25rem;
}
.hands-off :deep(.n-button__content) {
  white-space: normal;
  text-align: start;
}
</style>
