<script setup lang="ts">
import { filledIn, stepsOf, valuesFor } from '@porch/core';
import { NButton } from 'naive-ui';
import { computed } from 'vue';
import { useAttempt } from '../../use-attempt.ts';
import { w } from '../../words/index.ts';
import type { ConsoleSession } from '../console-ability.ts';
import { runbookTool } from './tool.ts';

/* An instruction: read, and ticked off step by step. Whoever takes the session over sees what was done. */
const props = defineProps<{ session: ConsoleSession }>();
const { technician, inHand, beginInstruction } = props.session.tool(runbookTool);
const action = computed(() => inHand.value?.action);
const steps = computed(() => {
  const { value } = action;
  return value ? stepsOf(filledIn(value.body, valuesFor(value, {}))) : [];
});
/** One that is begun already, by whomever, is gone on with. */
const runId = computed(() => {
  const { runbook } = props.session.state.value.slices;
  const begun = Object.entries(runbook).find(([, run]) => run.actionId === inHand.value?.id);
  return inHand.value?.instructionId ?? begun?.[0];
});
const ticked = computed(() => props.session.state.value.slices.runbook[runId.value ?? '']?.ticked ?? []);
const { trouble, isBusy, attempt } = useAttempt();
const begin = () => attempt(beginInstruction);
const tick = (step: number, isDone: boolean) => attempt(() => technician.tick(runId.value ?? '', step, isDone));
const isChecked = (event: Event) => (event.target as HTMLInputElement).checked;
</script>

<template>
  <template v-if="action">
    <h2>{{ action.title }}</h2>
    <p v-if="action.about">{{ action.about }}</p>
    <ol class="steps" data-test="steps">
      <li v-for="(text, step) in steps" :key="step">
        <label
          ><input
            type="checkbox"
            :checked="ticked.includes(step)"
            :disabled="runId === undefined || isBusy"
            :data-test="`step-${step}`"
            @change="tick(step, isChecked($event))"
          />
          {{ text }}</label
        >
      </li>
    </ol>
    <p v-if="runId !== undefined" role="status">
      {{ w.runbook.stepsDone({ done: String(ticked.length), all: String(steps.length) }) }}
    </p>
    <p v-else>
      <NButton size="small" type="primary" :loading="isBusy" data-test="begin-steps" @click="begin">{{
        w.runbook.begin
      }}</NButton>
    </p>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
  </template>
</template>

<style scoped>
h2 {
  font-size: 1rem;
  margin: 0;
}
.steps {
  padding-left: 1.6rem;
  display: grid;
  gap: 0.4rem;
}
.steps label {
  display: flex;
  gap: 0.4rem;
  align-items: start;
  min-height: 24px;
}
.steps input {
  margin: 0.3rem 0 0;
  width: 1.1rem;
  height: 1.1rem;
  flex: none;
}
</style>
