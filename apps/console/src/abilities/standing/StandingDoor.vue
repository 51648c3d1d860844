<script setup lang="ts">
import { NButton, NInput } from 'naive-ui';
import { computed, ref } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import { standingTool } from './tool.ts';

/* At the door of a device: the second secret, or whoever sits there. */
const props = defineProps<{ session: ConsoleSession }>();
const { door, secret: state } = props.session.tool(standingTool);
const words = ref('');
const device = computed(() => props.session.state.value.asset ?? 'the device');
const isThere = computed(() => props.session.isHolderThere.value);
const triesLeft = computed(() => ('triesLeft' in state.value ? state.value.triesLeft : undefined));
const isLocked = computed(() => triesLeft.value === 0);
const canTry = computed(() => (state.value.name === 'wanted' || state.value.name === 'wrong') && !isLocked.value);

const sentence = computed(() => {
  if (!isThere.value) return `${device.value} has been called and is coming to the door …`;
  if (isLocked.value) return 'The passphrase was wrong too often. Only a yes of whoever sits there lets you in.';
  switch (state.value.name) {
    case 'unknown':
      return `Connecting to ${device.value} …`;
    case 'checking':
      return `${device.value} looks at the passphrase …`;
    case 'right':
      return 'The passphrase is right. If remote visits are asked for there, whoever sits there is reading the question now.';
    case 'asked':
      return 'Whoever sits there is reading the question now.';
    case 'impostor':
      return 'What answered does not know the passphrase itself. Do not go on: end this session and tell your lead.';
    case 'wrong':
      return `That is not the passphrase. ${triesLeft.value} ${triesLeft.value === 1 ? 'try is' : 'tries are'} left.`;
    case 'wanted':
      return 'Type the passphrase that was chosen there. It stays in this page.';
    default:
      return '';
  }
});

async function prove(): Promise<void> {
  const said = words.value;
  words.value = '';
  await door.prove(said);
}
</script>

<template>
  <section class="card" aria-labelledby="door" data-test="door">
    <h2 id="door">Remote visit to {{ device }}</h2>
    <p role="status" data-test="door-says">{{ sentence }}</p>
    <form v-if="canTry" @submit.prevent="prove">
      <NInput
        v-model:value="words"
        placeholder="five-words-with-hyphens-between"
        :input-props="{ 'aria-label': 'The passphrase of the device', autocomplete: 'off' }"
        data-test="door-words"
      />
      <NButton attr-type="submit" type="primary" :disabled="!words.trim()">Go in</NButton>
    </form>
    <p v-if="isThere && ['wanted', 'wrong'].includes(state.name)">
      <NButton data-test="door-ask" @click="door.askWhoIsThere()">Ask whoever sits there</NButton>
    </p>
  </section>
</template>

<style scoped>
.card {
  grid-column: 1 / -1;
}
form {
  display: grid;
  grid-template-columns: minmax(0, 22rem) auto;
  gap: 0.6rem;
  justify-content: start;
}
p {
  margin: 0.4rem 0;
}
</style>
