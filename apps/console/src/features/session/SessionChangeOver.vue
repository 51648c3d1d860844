<script setup lang="ts">
import { NAlert, NButton } from 'naive-ui';
import { computed } from 'vue';
import { inWords } from '../../in-words.ts';
import type { TechnicianSession } from './technician-session.ts';
import { w } from '../../words/index.ts';

/* Another Doorstep wants to take the place of the one that is seen: the technician asks the customer, and answers. */
const props = defineProps<{ session: TechnicianSession }>();
const emit = defineEmits<{ trouble: [words: string] }>();
const candidateId = computed(() => props.session.state.value.candidateId);
/** What the other Doorstep's computer calls itself. */
const computer = computed(() => props.session.computerOf(candidateId.value));

function answer(isYes: boolean): void {
  props.session.connection
    .command({ type: 'answerChangeOver', participantId: candidateId.value ?? '', isYes })
    .catch((error: unknown) => emit('trouble', inWords(error)));
}
</script>

<template>
  <NAlert
    v-if="candidateId && session.isLead.value"
    class="change-over"
    type="warning"
    :show-icon="false"
    data-test="change-over"
  >
    {{ computer ? w.session.otherDoorstepOn({ computer }) : w.session.otherDoorstep }}
    <NButton size="tiny" data-test="change-over-yes" @click="answer(true)">{{ w.session.changeOver }}</NButton>
    <NButton size="tiny" data-test="change-over-no" @click="answer(false)">{{ w.session.sendAway }}</NButton>
  </NAlert>
</template>

<style scoped>
.change-over button + button {
  margin-left: 0.4rem;
}
</style>
