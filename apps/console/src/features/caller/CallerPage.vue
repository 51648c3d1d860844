<script setup lang="ts">
import { inBackground } from '@porch/client';
import { isTelephone } from '@porch/core';
import type { CallersFound } from '@porch/wire';
import { NAlert, NButton, NInput, NSpin } from 'naive-ui';
import { onMounted, ref, shallowRef } from 'vue';
import { useDesk } from '../../desk.ts';
import { handleRowKey } from '../porch/porch-rows.ts';
import { useStarting } from '../porch/use-starting.ts';
import CallerPerson from './CallerPerson.vue';
import { callerNumber } from './caller-number.ts';
import { w } from '../../words/index.ts';

/* Whoever calls, from the first ring: what the desk has of them, and what to start from. */
const { rest } = useDesk();
const number = ref(callerNumber());
const asked = ref('');
const found = shallowRef<CallersFound>();
const { trouble, isBusy, attempt, start } = useStarting();

async function look(): Promise<void> {
  const telephone = number.value.trim();
  trouble.value = isTelephone(telephone) ? '' : w.value.caller.notANumber;
  if (trouble.value) return;
  found.value = undefined;
  asked.value = telephone;
  await attempt(async () => {
    found.value = await rest.findCallers(telephone);
    // A page that is loaded again asks for the same number.
    history.replaceState({ ...history.state, telephone }, '');
  });
}
onMounted(() => {
  if (number.value) inBackground('looking who calls', look());
});
</script>

<template>
  <main class="caller">
    <h1>{{ asked ? w.caller.title({ number: asked }) : w.caller.titleNone }}</h1>
    <form class="look" role="search" @submit.prevent="look">
      <NInput
        v-model:value="number"
        placeholder=""
        :maxlength="40"
        :input-props="{ 'aria-label': w.caller.field, type: 'tel', id: 'caller-number' }"
      />
      <NButton attr-type="submit" type="primary" :loading="isBusy">{{ w.caller.look }}</NButton>
    </form>
    <NAlert v-if="trouble" type="error" :show-icon="false" role="alert">{{ trouble }}</NAlert>
    <NSpin v-if="isBusy && !found" :description="w.caller.looking" />
    <template v-else-if="found">
      <NAlert v-if="found.ticketTrouble" type="warning" :show-icon="false">{{
        w.caller.incomplete({ why: found.ticketTrouble })
      }}</NAlert>
      <section v-if="!found.people.length" class="card" data-test="nobody">
        <p>{{ w.caller.nobody }}</p>
        <NButton type="primary" @click="start({})">{{ w.caller.code }}</NButton>
      </section>
      <div class="people" @keydown="handleRowKey">
        <CallerPerson
          v-for="person in found.people"
          :key="`${person.name} ${person.address ?? ''}`"
          :person="person"
          @start="start"
        />
      </div>
    </template>
  </main>
</template>

<style scoped>
.caller {
  max-width: 72rem;
  margin: 0 auto;
  padding: 1rem;
  display: grid;
  gap: 1rem;
}
.look {
  display: grid;
  grid-template-columns: minmax(0, 18rem) auto;
  gap: 0.6rem;
  justify-content: start;
}
.people {
  display: grid;
  gap: 1rem;
}
</style>
