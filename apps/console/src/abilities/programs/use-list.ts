import { saidOfRow, type TechnicianPrograms, type WatchedList } from '@porch/client';
import { chooseRows, firstOrder, type ProgramColumn, type ProgramList, type ProgramOrder } from '@porch/core';
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue';
import { w } from '../../words/index.ts';

const EMPTY: WatchedList = { rows: new Map(), isWhole: false, count: 0 };

/** One list at a time, kept up to date while it is in sight: which rows of it, and in which order. */
export function useList(technician: TechnicianPrograms, mayLook: () => boolean) {
  const list = ref<ProgramList>('processes');
  const words = ref('');
  const order = ref<ProgramOrder>(firstOrder.processes);
  const watched = shallowRef(EMPTY);
  let stop = () => undefined as void;
  function begin(): void {
    stop();
    watched.value = EMPTY;
    if (mayLook()) stop = technician.watch(list.value, (now) => (watched.value = now));
  }
  watch([list, mayLook], begin, { immediate: true });
  onBeforeUnmount(() => stop());
  return {
    ...{ list, words, order, watched },
    rows: computed(() =>
      chooseRows(watched.value.rows.values(), words.value, order.value, (row) => saidOfRow(row, w.value.programs)),
    ),
    choose(next: ProgramList): void {
      [list.value, words.value, order.value] = [next, '', firstOrder[next]];
    },
    orderBy(by: ProgramColumn): void {
      const { by: now, isDown } = order.value;
      order.value = { by, isDown: by === now ? !isDown : false };
    },
  };
}
