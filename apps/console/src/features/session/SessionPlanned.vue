<script setup lang="ts">
import { abilityOf, allPermissions, permissionLabel, rulesOf, type Permission } from '@porch/core';
import { NButton, NCheckbox } from 'naive-ui';
import { computed, ref, shallowRef } from 'vue';
import { inWords } from '../../in-words.ts';
import { usePorch } from '../porch/usePorch.ts';
import type { TechnicianSession } from './technician-session.ts';
import { ledger, w } from '../../words/index.ts';

/* Chosen while nobody is there yet: asked once they are in, in one question, and never without this technician. */
const props = defineProps<{ session: TechnicianSession }>();
const { porch } = usePorch();
const trouble = ref('');
/** What was chosen here and is still on its way: the next press builds on it, not on what the service said before. */
const wished = shallowRef<readonly Permission[]>();
const planned = computed(() => wished.value ?? props.session.state.value.planned);
/** Those that any release does, and that this desk lets its people ask. */
const possible = computed(() =>
  allPermissions.filter(
    (one) => abilityOf.get(one) !== 'to-come' && !rulesOf(one).isForComingBack && !porch.value?.mayNotAsk.includes(one),
  ),
);
async function choose(permissions: readonly Permission[]): Promise<void> {
  trouble.value = '';
  wished.value = permissions;
  try {
    await props.session.connection.command({ type: 'planned/choose', permissions: [...permissions] });
  } catch (error) {
    trouble.value = inWords(error);
  } finally {
    if (wished.value === permissions) wished.value = undefined;
  }
}
const toggle = (one: Permission, isOn: boolean) =>
  choose(
    isOn
      ? [...(planned.value as Permission[]), one]
      : // What needs it is not asked without it.
        (planned.value as Permission[]).filter((other) => other !== one && rulesOf(other).needs !== one),
  );
</script>

<template>
  <section class="card" aria-labelledby="planned" data-test="planned">
    <h2 id="planned">{{ w.waitingRoom.planned }}</h2>
    <p class="buttons">
      <NButton
        v-for="bundle in porch?.bundles ?? []"
        :key="bundle.name"
        size="small"
        :data-test="`plan-${bundle.name}`"
        @click="choose(bundle.permissions)"
        >{{ bundle.own ? w.consent.bundles[bundle.own] : bundle.name }}</NButton
      >
      <NButton v-if="planned.length" size="small" data-test="plan-nothing" @click="choose([])">{{
        w.waitingRoom.plannedNothing
      }}</NButton>
    </p>
    <ul>
      <li v-for="one in possible" :key="one">
        <NCheckbox
          :checked="planned.includes(one)"
          :data-test="`plan-${one}`"
          @update:checked="(isOn: boolean) => toggle(one, isOn)"
          >{{ permissionLabel(one, ledger) }}</NCheckbox
        >
      </li>
    </ul>
    <p class="quiet">{{ w.waitingRoom.plannedHow }}</p>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped>
.card {
  align-self: start;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0.5rem 0;
  display: grid;
  gap: 0.2rem;
}
</style>
