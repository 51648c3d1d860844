<script setup lang="ts">
import { NButton, NInput } from 'naive-ui';
import { computed, ref } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import { standingTool } from './tool.ts';
import { w } from '../../words/index.ts';

/* At the door of a device: the second secret, or whoever sits there. */
const props = defineProps<{ session: ConsoleSession }>();
const { door, secret: state } = props.session.tool(standingTool);
const words = ref('');
const device = computed(() => props.session.state.value.asset ?? w.value.standing.theDevice);
const isThere = computed(() => props.session.isHolderThere.value);
const triesLeft = computed(() => ('triesLeft' in state.value ? state.value.triesLeft : undefined));
const isLocked = computed(() => triesLeft.value === 0);
const canTry = computed(() => (state.value.name === 'wanted' || state.value.name === 'wrong') && !isLocked.value);

const sentence = computed(() => {
  const { standing } = w.value;
  const { name } = state.value;
  if (!isThere.value) return standing.called({ device: device.value });
  if (isLocked.value) return standing.locked;
  if (name === 'wrong') return standing.wrong({ left: triesLeft.value ?? 0 });
  if (name === 'unknown' || name === 'checking') return standing[name]({ device: device.value });
  return name === 'notNeeded' ? '' : standing[name];
});

async function prove(): Promise<void> {
  const said = words.value;
  words.value = '';
  await door.prove(said);
}
</script>

<template>
  <section class="card" aria-labelledby="door" data-test="door">
    <h2 id="door">{{ w.standing.title({ device }) }}</h2>
    <p role="status" data-test="door-says">{{ sentence }}</p>
    <form v-if="canTry" @submit.prevent="prove">
      <NInput
        v-model:value="words"
        :placeholder="w.standing.example"
        :input-props="{ 'aria-label': w.standing.label, autocomplete: 'off' }"
        data-test="door-words"
      />
      <NButton attr-type="submit" type="primary" :disabled="!words.trim()">{{ w.standing.goIn }}</NButton>
    </form>
    <p v-if="isThere && ['wanted', 'wrong'].includes(state.name)">
      <NButton data-test="door-ask" @click="door.askWhoIsThere()">{{ w.standing.ask }}</NButton>
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
