<script setup lang="ts">
import { programCell } from '@porch/client';
import { programColumns, type ProgramColumn, type ProgramList, type ProgramOrder, type ProgramRow } from '@porch/core';
import { NVirtualList, type VirtualListInst } from 'naive-ui';
import { computed, ref } from 'vue';
import { speech, w } from '../../words/index.ts';

/* Rows of one list: however many, only those in sight are drawn. Arrows choose among them. */
const props = defineProps<{ list: ProgramList; rows: readonly ProgramRow[]; order: ProgramOrder }>();
const chosen = defineModel<string>('chosen', { required: true });
const emit = defineEmits<{ order: [ProgramColumn] }>();
const ROW_PX = 26;
const PAGE = 15;
const columns = computed<readonly ProgramColumn[]>(() => programColumns[props.list]);
const items = computed(() => props.rows.map((row, index) => ({ key: row.id, row, index })));
const at = computed(() => props.rows.findIndex(({ id }) => id === chosen.value));
const inSight = ref<VirtualListInst>();

const steps: Readonly<Record<string, number>> = {
  ...{ ArrowDown: 1, ArrowUp: -1, PageDown: PAGE, PageUp: -PAGE },
  ...{ Home: -Infinity, End: Infinity },
};
function handleKey(event: KeyboardEvent): void {
  const step = steps[event.key];
  if (step === undefined || !props.rows.length) return;
  event.preventDefault();
  const index = Math.max(0, Math.min(props.rows.length - 1, at.value + step));
  chosen.value = props.rows[index]?.id ?? '';
  inSight.value?.scrollTo({ index });
}
const sortOf = (column: ProgramColumn) =>
  props.order.by !== column ? 'none' : props.order.isDown ? 'descending' : 'ascending';
const isTrouble = (row: ProgramRow) =>
  ('state' in row && (row.state === 'failed' || row.state === 'stuck')) ||
  ('weight' in row && (row.weight === 'error' || row.weight === 'urgent'));
</script>

<template>
  <div
    role="grid"
    tabindex="0"
    :aria-label="w.programs.lists[list]"
    :aria-rowcount="rows.length + 1"
    :aria-activedescendant="at < 0 ? undefined : `program-row-${at}`"
    class="grid"
    data-test="program-rows"
    @keydown="handleKey"
  >
    <div role="row" aria-rowindex="1" class="row head">
      <span
        v-for="column in columns"
        :key="column"
        role="columnheader"
        :aria-sort="sortOf(column)"
        class="cell"
        :class="column"
      >
        <button
          type="button"
          :title="w.programs.order({ column: w.programs.columns[column] })"
          :data-test="`order-${column}`"
          @click="emit('order', column)"
        >
          {{ w.programs.columns[column]
          }}<span aria-hidden="true">{{ order.by === column ? (order.isDown ? ' ▾' : ' ▴') : '' }}</span>
        </button>
      </span>
    </div>
    <NVirtualList ref="inSight" class="rows" :items="items" :item-size="ROW_PX">
      <template #default="{ item: { row, index } }">
        <div
          :id="`program-row-${index}`"
          :key="row.id"
          role="row"
          class="row"
          :class="{ chosen: row.id === chosen, trouble: isTrouble(row) }"
          :aria-rowindex="index + 2"
          :aria-selected="row.id === chosen"
          @click="chosen = row.id"
        >
          <span v-for="column in columns" :key="column" role="gridcell" class="cell" :class="column">{{
            programCell(row, column, w.programs, speech)
          }}</span>
        </div>
      </template>
    </NVirtualList>
  </div>
</template>

<style scoped>
.grid {
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
  border: 1px solid var(--line);
  container-type: inline-size;
}
.rows {
  flex: 1;
  min-height: 8rem;
}
.row {
  display: flex;
  height: 26px;
  align-items: center;
  font-size: 0.85rem;
}
.row:not(.head) {
  cursor: default;
}
.head {
  border-bottom: 1px solid var(--line);
  font-weight: 700;
}
.cell {
  flex: 1 1 0;
  min-width: 0;
  padding: 0 0.35rem;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.name,
.from {
  flex-grow: 1.6;
}
.startedAtMs,
.nextAtMs,
.lastAtMs,
.changedAtMs {
  flex-grow: 1.7;
}
.atMs {
  flex-grow: 2.4;
}
.text {
  flex-grow: 6;
}
.about,
.startedAs,
.runs {
  flex-grow: 2.4;
}
.whose,
.state,
.pid,
.cpuPercent {
  flex-grow: 0.8;
}
.cpuPercent,
.memoryBytes,
.sizeBytes,
.pid,
.port {
  text-align: end;
}
.chosen {
  background: var(--amber-ground);
}
.trouble .name,
.trouble .state,
.trouble .weight {
  color: var(--red);
  font-weight: 700;
}
button {
  all: unset;
  box-sizing: border-box;
  width: 100%;
  min-height: 24px;
  cursor: pointer;
  overflow: hidden;
  text-overflow: ellipsis;
}
button:focus-visible {
  outline: 2px solid currentcolor;
  outline-offset: -2px;
}
@container (max-width: 34rem) {
  .cell:nth-child(n + 4):not(.text),
  .cell.from {
    display: none;
  }
}
</style>
