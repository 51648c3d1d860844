<script setup lang="ts">
import { computed } from 'vue';
import { customersName } from '../../customers-name.ts';
import { speech, w } from '../../words/index.ts';
import StageNote from '../StageNote.vue';
import type { ConsoleSession } from '../console-ability.ts';

/* Over the stage: that the one program that was shown is closed, and that somebody has to choose anew. */
const props = defineProps<{ session: ConsoleSession }>();
const isNothingShown = computed(() => {
  const { 'one-program': oneProgram, presence, passwords } = props.session.state.value.slices;
  // What else there may be to say of a picture that rests stands in the same place.
  return oneProgram.shows === 'nothing' && !presence.privateAt.length && !passwords.typing;
});
const who = computed(() => speech.value.capital(customersName(props.session.state.value)));
</script>

<template>
  <StageNote v-if="isNothingShown" is-waiting data-test="shows-nothing">{{ w.oneProgram.nothing({ who }) }}</StageNote>
</template>
