<script setup lang="ts">
import { needsCallAnswer } from '@porch/core';
import type { DoorView } from '@porch/wire';
import { computed, onMounted, ref } from 'vue';
import type { CustomerSession } from './customer-session.ts';
import { inWords } from './door.ts';

const props = defineProps<{ door: DoorView; session: CustomerSession }>();
const state = computed(() => props.session.state.value);
const name = ref(props.door.customerName);
const address = ref(props.door.customerAddress);
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
    await props.session.connection.command({ type: 'introduceCustomer', name: name.value, address: address.value });
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
      <h1>Did you call us, or did somebody call you?</h1>
      <p>People who pretend to be a help desk call by themselves. We do not.</p>
      <div class="pair">
        <button :disabled="isBusy" @click="answer('i-called')">I called them</button>
        <button :disabled="isBusy" @click="answer('they-called')">They called me</button>
      </div>
      <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
    </template>
    <form v-else @submit.prevent="begin">
      <h1>{{ door.technicianName }} of {{ door.deskName }} wants to help you</h1>
      <section class="card">
        <p v-if="door.ticketRef">
          <b>Ticket {{ door.ticketRef }}</b>
        </p>
        <p>{{ door.purpose }}</p>
      </section>
      <label for="name">Your name</label>
      <input id="name" v-model="name" required maxlength="120" autocomplete="name" />
      <label for="address">Mail address or telephone</label>
      <input id="address" v-model="address" maxlength="200" autocomplete="email" />
      <p class="quiet">
        Nothing is shown yet: you are asked for each thing by itself, and can say no. What is said and done is written
        down, and you get a copy. (Notice {{ door.noticeVersion }})
      </p>
      <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
      <div class="pair">
        <button type="button" :disabled="isBusy" @click="refuse">Do not begin</button>
        <button type="submit" :disabled="isBusy">Begin</button>
      </div>
    </form>
  </main>
</template>
