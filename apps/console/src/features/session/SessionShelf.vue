<script setup lang="ts">
import { computed } from 'vue';
import { consoleAbilities } from '../../abilities/index.ts';
import { shelfGroups } from '../../abilities/console-ability.ts';
import ShelfButton from '../../abilities/ShelfButton.vue';
import { isShelfSign } from '../../abilities/ShelfIcon.vue';
import type { TechnicianSession } from './technician-session.ts';
import { w } from '../../words/index.ts';

/* The shelf of work beside the stage: every act by its sign, in groups, and a field that finds any. */
const props = defineProps<{ session: TechnicianSession; isOver: boolean; isLive: boolean; isLedgerOpen: boolean }>();
const open = defineModel<string>('open', { required: true });
const emit = defineEmits<{ ledger: []; find: [] }>();
const toggle = (name: string) => (open.value = open.value === name ? '' : name);

const groups = computed(() =>
  shelfGroups
    .map((group) => ({
      group,
      items: props.isOver
        ? []
        : consoleAbilities.flatMap(({ name, shelf }) =>
            shelf && shelf.group === group && shelf.isShown(props.session) ? [{ name, ...shelf }] : [],
          ),
    }))
    .filter(({ items }) => items.length),
);
</script>

<template>
  <nav class="shelf" :aria-label="w.session.shelf">
    <div v-for="{ group, items } in groups" :key="group" role="group" :aria-label="w.session.groups[group]">
      <template v-for="item in items" :key="item.name">
        <component :is="item.button" v-if="item.button" :session="session" />
        <ShelfButton
          v-else
          :sign="isShelfSign(item.name) ? item.name : 'picture'"
          :label="item.label()"
          :letter="item.letter"
          :aria-expanded="open === item.name"
          :data-test="`shelf-${item.name}`"
          @click="toggle(item.name)"
        />
      </template>
    </div>
    <div role="group" :aria-label="w.session.groups.together">
      <ShelfButton
        v-if="!isOver"
        sign="look-up"
        :label="w.lookUp.title"
        letter="U"
        :aria-expanded="open === 'look-up'"
        data-test="shelf-look-up"
        @click="toggle('look-up')"
      />
      <ShelfButton
        v-if="isLive"
        sign="handover"
        :label="w.session.handOver"
        letter="H"
        :aria-expanded="open === 'handover'"
        data-test="shelf-handover"
        @click="toggle('handover')"
      />
      <ShelfButton
        sign="ledger"
        :label="w.session.ledger"
        letter="L"
        :aria-expanded="isLedgerOpen"
        @click="emit('ledger')"
      />
      <ShelfButton sign="find" :label="w.finder.open" data-test="find-act" @click="emit('find')" />
    </div>
  </nav>
</template>

<style scoped>
.shelf {
  width: 48px;
  display: flex;
  flex-direction: column;
  gap: 0.3rem;
  padding: 0.3rem 3px;
  overflow-y: auto;
  border-right: 1px solid var(--line);
}
.shelf > div {
  display: flex;
  flex-direction: column;
  gap: 2px;
}
.shelf > div + div {
  padding-top: 0.3rem;
  border-top: 1px solid var(--line);
}
@media (max-width: 760px) {
  .shelf {
    width: 100%;
    flex-flow: row wrap;
    border: 0;
  }
  .shelf > div {
    flex-flow: row wrap;
  }
  .shelf > div + div {
    padding: 0 0 0 0.3rem;
    border: 0;
    border-left: 1px solid var(--line);
  }
}
</style>
