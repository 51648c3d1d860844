<script setup lang="ts">
import { valueFaults, type RunbookAction, type RunbookParameter } from '@porch/core';
import { NInput } from 'naive-ui';
import { computed } from 'vue';
import { w } from '../../words/index.ts';

/* What an action is given: a field for each value, and what is wrong with it. */
const props = defineProps<{ action: RunbookAction; areFaultsShown: boolean }>();
const values = defineModel<Record<string, string>>({ required: true });
const faults = computed(() => (props.areFaultsShown ? valueFaults(props.action, values.value) : {}));
const choicesOf = ({ kind, choices = [] }: RunbookParameter) =>
  kind === 'yes-no'
    ? [
        { value: 'yes', words: w.value.runbook.yes },
        { value: 'no', words: w.value.runbook.no },
      ]
    : choices.map((value) => ({ value, words: value }));
</script>

<template>
  <div v-for="one in action.parameters" :key="one.name" class="value">
    <label :for="`value-${one.name}`">{{ one.label }}</label>
    <select
      v-if="one.kind === 'choice' || one.kind === 'yes-no'"
      :id="`value-${one.name}`"
      v-model="values[one.name]"
      :data-test="`value-${one.name}`"
    >
      <option v-if="!values[one.name]" value=""></option>
      <option v-for="choice in choicesOf(one)" :key="choice.value" :value="choice.value">{{ choice.words }}</option>
    </select>
    <NInput
      v-else
      :value="values[one.name] ?? ''"
      size="small"
      placeholder=""
      :type="one.kind === 'secret' ? 'password' : 'text'"
      :maxlength="200"
      :input-props="{
        id: `value-${one.name}`,
        autocomplete: 'off',
        inputmode: one.kind === 'number' ? 'decimal' : 'text',
        'aria-invalid': faults[one.name] ? 'true' : 'false',
      }"
      :data-test="`value-${one.name}`"
      @update:value="(value: string) => (values[one.name] = value)"
    />
    <span v-if="faults[one.name]" role="alert">{{ w.runbook.valueFaults[faults[one.name] ?? 'missing'] }}</span>
  </div>
</template>

<style scoped>
.value {
  display: grid;
  gap: 0.15rem;
}
</style>
