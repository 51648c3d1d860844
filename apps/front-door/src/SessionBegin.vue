<script setup lang="ts">
import { needsCallAnswer, WhoseComputer, purposeForCustomer } from '@porch/core';
import type { DoorView } from '@porch/wire';
import { computed, onMounted, ref } from 'vue';
import type { CustomerSession } from './customer-session.ts';
import { inWords } from './door.ts';
import { language, ledger, w } from './words/index.ts';

const props = defineProps<{ door: DoorView; session: CustomerSession }>();
const state = computed(() => props.session.state.value);
const name = ref(props.door.customerName);
const address = ref(props.door.customerAddress);
const computer = ref<WhoseComputer>('works');
const isMinor = ref(false);
const trouble = ref('');
const isBusy = ref(false);

onMounted(() => props.session.tellStep('reading-who-asks'));
async function attempt(work: () => Promise<unknown>): Promise<void> {
  isBusy.value = true;
  trouble.value = '';
  await work().catch((error: unknown) => (trouble.value = inWords(error)));
  isBusy.value = false;
}
const answer = (a: 'i-called' | 'they-called') =>
  attempt(() => props.session.connection.command({ type: 'answerCall', answer: a }));
const begin = () =>
  attempt(async () => {
    await props.session.connection.command({
      type: 'introduceCustomer',
      name: name.value,
      address: address.value,
      language: language.value,
      computer: computer.value,
      isMinor: isMinor.value,
    });
    await props.session.connection.command({ type: 'acceptSession', noticeVersion: props.door.noticeVersion });
  });
const refuse = () =>
  attempt(() =>
    props.session.connection.command({
      type: 'endSession',
      reason: 'customer',
      why: 'did not want to begin',
      fact: undefined,
    }),
  );
</script>

<template>
  <main>
    <template v-if="needsCallAnswer(state)">
      <h1>{{ w.begin.called }}</h1>
      <p>{{ w.begin.pretenders }}</p>
      <div class="pair">
        <button :disabled="isBusy" @click="answer('i-called')">{{ w.begin.iCalled }}</button>
        <button :disabled="isBusy" @click="answer('they-called')">{{ w.begin.theyCalled }}</button>
      </div>
      <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
    </template>
    <form v-else @submit.prevent="begin">
      <h1>{{ w.begin.wants({ name: door.technicianName, desk: door.deskName }) }}</h1>
      <section class="card">
        <p v-if="door.ticketRef">
          <b>{{ w.begin.ticket({ ref: door.ticketRef }) }}</b>
        </p>
        <p>{{ purposeForCustomer(state, ledger) }}</p>
      </section>
      <label for="name">{{ w.help.name }}</label>
      <input id="name" v-model="name" required maxlength="120" autocomplete="name" />
      <label for="address">{{ w.help.address }}</label>
      <input id="address" v-model="address" maxlength="200" autocomplete="email" />
      <details>
        <summary>{{ w.begin.notMine }}</summary>
        <label for="computer">{{ w.begin.whose }}</label>
        <select id="computer" v-model="computer" data-test="whose-computer">
          <option v-for="one in WhoseComputer.options" :key="one" :value="one">{{ w.begin[one] }}</option>
        </select>
        <label class="tick"><input v-model="isMinor" type="checkbox" /> {{ w.begin.minor }}</label>
      </details>
      <p class="quiet">
        {{ w.begin.notice({ version: door.noticeVersion }) }}
      </p>
      <details data-test="notice">
        <summary>{{ w.begin.wholeNotice }}</summary>
        <p v-for="line in door.notice[language].split('\n')" :key="line">{{ line }}</p>
      </details>
      <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
      <div class="pair">
        <button type="button" :disabled="isBusy" @click="refuse">{{ w.begin.no }}</button>
        <button type="submit" :disabled="isBusy">{{ w.begin.yes }}</button>
      </div>
    </form>
  </main>
</template>

<style scoped>
.tick {
  display: flex;
  gap: 0.6rem;
  align-items: center;
  font-weight: normal;
}
.tick input {
  width: auto;
}
</style>
