<script setup lang="ts">
import { csvOf, listInWords, programCell } from '@porch/client';
import { programColumns, programListNames } from '@porch/core';
import { NButton, NInput } from 'naive-ui';
import { computed, ref } from 'vue';
import { reasonInWords, speech, w } from '../../words/index.ts';
import type { ConsoleSession } from '../console-ability.ts';
import { saveAs } from '../files/save.ts';
import ProgramChosen from './ProgramChosen.vue';
import ProgramTable from './ProgramTable.vue';
import { programsTool } from './tool.ts';
import { useList } from './use-list.ts';

/* What runs and is installed over there, list by list, while somebody looks. */
const props = defineProps<{ session: ConsoleSession }>();
const { technician, mayLook } = props.session.tool(programsTool);
const { list, words, order, watched, rows, choose, orderBy } = useList(technician, () => mayLook.value);
const chosen = ref('');
/** What went is no longer there to act on. */
const row = computed(() => watched.value.rows.get(chosen.value));
const note = computed(() =>
  watched.value.refused === undefined
    ? listInWords(watched.value, w.value.programs)
    : w.value.programs.refused({ why: reasonInWords(watched.value.refused) }),
);
const isReading = computed(() => !watched.value.isWhole && note.value === '');
const count = computed(() =>
  w.value.programs.count({
    shown: speech.value.number(rows.value.length),
    all: speech.value.number(watched.value.count),
  }),
);
function saveCsv(): void {
  const columns = programColumns[list.value];
  const { programs } = w.value;
  const lines = rows.value.map((one) => columns.map((column) => programCell(one, column, programs, speech.value)));
  const head = columns.map((column) => programs.columns[column]);
  saveAs(`${list.value}.csv`, new Blob([csvOf(head, lines)], { type: 'text/csv' }));
}
</script>

<template>
  <section class="drawer-panel is-high" :aria-label="w.programs.title" data-test="programs">
    <h1>{{ w.programs.title }}</h1>
    <div role="group" class="lists" :aria-label="w.programs.which">
      <NButton
        v-for="name in programListNames"
        :key="name"
        size="small"
        :type="name === list ? 'primary' : 'default'"
        :aria-pressed="name === list"
        :data-test="`list-${name}`"
        @click="choose(name)"
        >{{ w.programs.lists[name] }}</NButton
      >
    </div>
    <p class="find">
      <NInput
        v-model:value="words"
        size="small"
        clearable
        :placeholder="w.programs.search"
        :input-props="{ 'aria-label': w.programs.search, maxlength: 100 }"
        data-test="find-program"
      />
      <span class="quiet" data-test="program-count">{{ watched.isWhole ? count : '' }}</span>
      <NButton v-if="rows.length" size="small" data-test="programs-csv" @click="saveCsv">{{
        w.programs.saveCsv
      }}</NButton>
    </p>
    <p v-if="isReading" role="status" class="quiet">{{ w.programs.reading }}</p>
    <p v-if="note" role="status" data-test="program-note">{{ note }}</p>
    <p v-if="watched.isWhole && !rows.length" class="quiet">{{ w.programs.none }}</p>
    <ProgramTable
      v-show="rows.length"
      :key="list"
      v-model:chosen="chosen"
      :list="list"
      :rows="rows"
      :order="order"
      @order="orderBy"
    />
    <ProgramChosen v-if="row" :session="session" :list="list" :row="row" />
  </section>
</template>

<style scoped>
.lists,
.find {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem;
  align-items: center;
}
.find > :first-child {
  flex: 1 1 10rem;
}
</style>
