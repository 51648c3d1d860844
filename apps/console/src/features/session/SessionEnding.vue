<script setup lang="ts">
import { Outcome } from '@porch/core';
import { NButton, NInput } from 'naive-ui';
import { computed, onMounted, ref } from 'vue';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import type { TechnicianSession } from './technician-session.ts';
import { w } from '../../words/index.ts';

const props = defineProps<{ session: TechnicianSession }>();
const { rest } = useDesk();
const outcome = ref<Outcome>('resolved');
const note = ref('');
const minutes = ref(1);
const trouble = ref('');
/** The draft is there, or there is none: until then the button moves, and an empty note could be logged unseen. */
const isDrafted = ref(false);
const state = computed(() => props.session.state.value);

onMounted(async () => {
  try {
    const draft = await rest.draft(props.session.id);
    note.value = draft.note;
    minutes.value = draft.minutes;
  } catch (error) {
    trouble.value = inWords(error);
  }
  isDrafted.value = true;
  if (state.value.phase.name === 'ended')
    outcome.value =
      state.value.phase.reason === 'fraud'
        ? 'suspected-fraud'
        : state.value.phase.reason === 'technician'
          ? 'resolved'
          : state.value.phase.reason === 'nobody'
            ? 'follow-up'
            : 'customer-left';
});
async function log(): Promise<void> {
  trouble.value = '';
  await props.session.connection
    .command({ type: 'logOutcome', outcome: outcome.value, note: note.value, minutes: Math.round(minutes.value) })
    .catch((error: unknown) => (trouble.value = inWords(error)));
}
</script>

<template>
  <div class="ending">
    <section v-if="state.phase.name === 'ended'" class="card">
      <h2>{{ w.ending.title }}</h2>
      <p>{{ w.ending.reasons[state.phase.reason] }}</p>
      <form @submit.prevent="log">
        <label for="outcome">{{ w.ending.outcome }}</label>
        <select id="outcome" v-model="outcome" data-test="outcome">
          <option v-for="o in Outcome.options" :key="o" :value="o">{{ w.common.outcomes[o] }}</option>
        </select>
        <label for="note">{{ w.ending.note }}</label>
        <NInput
          v-model:value="note"
          type="textarea"
          :autosize="{ minRows: 6, maxRows: 14 }"
          :input-props="{ id: 'note', maxlength: 8000 }"
        />
        <label for="minutes">{{ w.ending.minutes }}</label>
        <input id="minutes" v-model.number="minutes" type="number" min="0" max="10000" step="1" required />
        <NButton attr-type="submit" type="primary" :disabled="!isDrafted" data-test="log-outcome">{{
          w.ending.log
        }}</NButton>
        <p v-if="trouble" role="alert" class="trouble">{{ trouble }}</p>
      </form>
    </section>
    <section v-else-if="state.phase.name === 'logged'" class="card" role="status" data-test="logged">
      <h2>{{ w.ending.logged({ outcome: w.common.outcomes[state.phase.outcome] }) }}</h2>
      <p v-if="state.ticketRef">
        {{ w.ending.toTicket({ ref: state.ticketRef }) }}
      </p>
      <p>
        <RouterLink to="/">{{ w.session.backToPorch }}</RouterLink> ·
        <RouterLink :to="`/past-sessions/${session.id}`">{{ w.ending.wholeLedger }}</RouterLink>
      </p>
    </section>
  </div>
</template>

<style scoped>
.ending {
  height: 100%;
  overflow: auto;
  display: grid;
  justify-content: center;
  padding: 1rem;
}
.card {
  width: min(44rem, 92vw);
  height: fit-content;
}
form {
  display: grid;
  gap: 0.4rem;
}
</style>
