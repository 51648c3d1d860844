<script setup lang="ts">
import { MAX_PARAMETERS, parameterKinds } from '@porch/core';
import { NButton, NInput } from 'naive-ui';
import { w } from '../../words/index.ts';
import type { ParameterForm } from './action-form.ts';

/* The values that are asked for before an action is run. */
const parameters = defineModel<ParameterForm[]>({ required: true });
function add(): void {
  const fresh = { name: '', label: '', kind: 'text', choices: '', first: '', isOptional: false } as const;
  parameters.value = [...parameters.value, { ...fresh }];
}
const drop = (at: number) => (parameters.value = parameters.value.filter((_, one) => one !== at));
</script>

<template>
  <fieldset>
    <legend>{{ w.runbook.values }}</legend>
    <div v-for="(one, at) in parameters" :key="at" class="one" data-test="parameter">
      <label
        >{{ w.runbook.valueName
        }}<NInput
          v-model:value="one.name"
          size="small"
          placeholder=""
          :maxlength="30"
          :allow-input="(value: string) => /^[A-Z0-9_]*$/.test(value)"
      /></label>
      <label
        >{{ w.runbook.valueLabel }}<NInput v-model:value="one.label" size="small" placeholder="" :maxlength="80"
      /></label>
      <label
        >{{ w.runbook.valueKind }}
        <select v-model="one.kind">
          <option v-for="kind in parameterKinds" :key="kind" :value="kind">{{ w.runbook.valueKinds[kind] }}</option>
        </select></label
      >
      <label v-if="one.kind === 'choice'"
        >{{ w.runbook.choices }}<NInput v-model:value="one.choices" size="small" placeholder="" :maxlength="400"
      /></label>
      <label v-if="one.kind !== 'secret'"
        >{{ w.runbook.valueFirst }}<NInput v-model:value="one.first" size="small" placeholder="" :maxlength="200"
      /></label>
      <label class="tick"><input v-model="one.isOptional" type="checkbox" /> {{ w.runbook.isOptional }}</label>
      <NButton size="small" @click="drop(at)">{{ w.runbook.dropValue({ name: one.name || String(at + 1) }) }}</NButton>
    </div>
    <NButton v-if="parameters.length < MAX_PARAMETERS" size="small" data-test="add-parameter" @click="add">{{
      w.runbook.addValue
    }}</NButton>
  </fieldset>
</template>

<style scoped>
fieldset {
  border: 1px solid var(--line);
  display: grid;
  gap: 0.6rem;
  justify-items: start;
  min-width: 0;
}
.one {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem 0.8rem;
  align-items: end;
}
label {
  display: grid;
  gap: 0.15rem;
}
.tick {
  display: flex;
  align-items: center;
}
</style>
