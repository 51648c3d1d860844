<script setup lang="ts">
import { allPermissions, Outcome, permissionLabel } from '@porch/core';
import type { TechnicianView } from '@porch/wire';
import { NInput } from 'naive-ui';
import { onMounted, shallowRef } from 'vue';
import { useDesk } from '../../desk.ts';
import type { Filter } from './useSessionFilters.ts';
import { ledger, w } from '../../words/index.ts';

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
  <form class="filters" role="search" :aria-label="w.pastSessions.sessions" @submit.prevent>
    <NInput
      class="words"
      :default-value="value('words')"
      clearable
      :placeholder="w.pastSessions.searchWords"
      :input-props="{ 'aria-label': w.pastSessions.search, type: 'search' }"
      @update:value="(words: string) => emit('change', 'words', words)"
    />
    <label>
      {{ w.pastSessions.outcome }}
      <select :value="value('outcome')" @change="change('outcome')($event)">
        <option value="">{{ w.pastSessions.any }}</option>
        <option v-for="o in Outcome.options" :key="o" :value="o">{{ w.common.outcomes[o] }}</option>
      </select>
    </label>
    <label>
      {{ w.pastSessions.state }}
      <select :value="value('phase')" @change="change('phase')($event)">
        <option value="">{{ w.pastSessions.any }}</option>
        <option v-for="(label, phase) in w.pastSessions.phases" :key="phase" :value="phase">{{ label }}</option>
      </select>
    </label>
    <label>
      {{ w.pastSessions.technician }}
      <select :value="value('technician')" @change="change('technician')($event)">
        <option value="">{{ w.pastSessions.any }}</option>
        <option v-for="c in colleagues" :key="c.id" :value="c.id">{{ c.name }}</option>
      </select>
    </label>
    <label>
      {{ w.pastSessions.allowed }}
      <select :value="value('permission')" @change="change('permission')($event)">
        <option value="">{{ w.pastSessions.anything }}</option>
        <option v-for="p in allPermissions" :key="p" :value="p">{{ permissionLabel(p, ledger) }}</option>
      </select>
    </label>
    <label>
      {{ w.pastSessions.files }}
      <select :value="value('files')" @change="change('files')($event)">
        <option value="">{{ w.pastSessions.withOrWithout }}</option>
        <option value="any">{{ w.pastSessions.withFiles }}</option>
      </select>
    </label>
    <label>
      {{ w.pastSessions.from }}
      <input type="date" :value="value('fromDay')" @change="change('fromDay')($event)" />
    </label>
    <label>
      {{ w.pastSessions.to }}
      <input type="date" :value="value('toDay')" @change="change('toDay')($event)" />
    </label>
    <button v-if="isFiltered" type="button" class="plain" data-test="clear-filters" @click="emit('clear')">
      {{ w.pastSessions.showAll }}
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
