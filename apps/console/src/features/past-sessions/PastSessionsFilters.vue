<script setup lang="ts">
import { allPermissions, Outcome, rulesOf } from '@porch/core';
import type { TechnicianView } from '@porch/wire';
import { NInput } from 'naive-ui';
import { onMounted, shallowRef } from 'vue';
import { useDesk } from '../../desk.ts';
import { outcomeLabels } from '../session/outcome-labels.ts';
import { phaseLabels } from './phase-labels.ts';
import type { Filter } from './useSessionFilters.ts';

defineProps<{ value: (name: Filter) => string; isFiltered: boolean }>();
const emit = defineEmits<{ change: [name: Filter, value: string]; clear: [] }>();
const { rest } = useDesk();
const colleagues = shallowRef<readonly TechnicianView[]>([]);

const change = (name: Filter) => (event: Event) =>
  emit('change', name, (event.target as HTMLSelectElement | HTMLInputElement).value);

onMounted(async () => {
  // Without them the other questions can be asked all the same; the list says what is wrong.
  colleagues.value = await rest.colleagues().catch(() => []);
});
</script>

<template>
  <form class="filters" role="search" aria-label="Sessions" @submit.prevent>
    <NInput
      class="words"
      :default-value="value('words')"
      clearable
      placeholder="Customer, ticket, what was said or written"
      :input-props="{ 'aria-label': 'Search sessions', type: 'search' }"
      @update:value="(words: string) => emit('change', 'words', words)"
    />
    <label>
      Outcome
      <select :value="value('outcome')" @change="change('outcome')($event)">
        <option value="">Any</option>
        <option v-for="o in Outcome.options" :key="o" :value="o">{{ outcomeLabels[o] }}</option>
      </select>
    </label>
    <label>
      State
      <select :value="value('phase')" @change="change('phase')($event)">
        <option value="">Any</option>
        <option v-for="(label, phase) in phaseLabels" :key="phase" :value="phase">{{ label }}</option>
      </select>
    </label>
    <label>
      Technician
      <select :value="value('technician')" @change="change('technician')($event)">
        <option value="">Any</option>
        <option v-for="c in colleagues" :key="c.id" :value="c.id">{{ c.name }}</option>
      </select>
    </label>
    <label>
      Allowed in it
      <select :value="value('permission')" @change="change('permission')($event)">
        <option value="">Anything</option>
        <option v-for="p in allPermissions" :key="p" :value="p">{{ rulesOf(p).label }}</option>
      </select>
    </label>
    <label>
      Files
      <select :value="value('files')" @change="change('files')($event)">
        <option value="">With or without</option>
        <option value="any">With files</option>
      </select>
    </label>
    <label>
      From
      <input type="date" :value="value('fromDay')" @change="change('fromDay')($event)" />
    </label>
    <label>
      To
      <input type="date" :value="value('toDay')" @change="change('toDay')($event)" />
    </label>
    <button v-if="isFiltered" type="button" class="plain" data-test="clear-filters" @click="emit('clear')">
      Show all
    </button>
  </form>
</template>

<style scoped>
.filters {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(8.6rem, 1fr));
  gap: 0.6rem 0.8rem;
  align-items: end;
}
.words {
  grid-column: 1 / -1;
}
label {
  display: grid;
  gap: 0.15rem;
  font-size: 0.85rem;
  color: var(--quiet);
}
select,
input[type='date'] {
  font: inherit;
  font-size: 0.95rem;
  color: var(--ink);
  background: var(--card);
  border: 1px solid var(--quiet);
  border-radius: 4px;
  padding: 0.3rem 0.4rem;
  height: 2.2rem;
  width: 100%;
  min-width: 0;
}
.plain {
  font: inherit;
  color: var(--accent);
  background: none;
  border: 0;
  padding: 0.4rem;
  text-decoration: underline;
  cursor: pointer;
}
</style>
