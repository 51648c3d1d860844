<script setup lang="ts">
import { Said } from '@porch/pages';
import { firstName } from '@porch/core';
import type { WaitingView } from '@porch/wire';
import { NButton, NInput } from 'naive-ui';
import { computed, ref } from 'vue';
import { useDesk } from '../../desk.ts';
import { countDown } from '../../times.ts';
import { useAttempt } from '../../use-attempt.ts';
import { routingInWords } from './routing-words.ts';
import { w } from '../../words/index.ts';

/* What a row says in short, in full: what goes wrong, to whom they are offered and why, and what was said meanwhile. */
const props = defineProps<{ entry: WaitingView; leftMs: number }>();
const { rest } = useDesk();
const words = ref('');
const { trouble, attempt } = useAttempt();
const why = (reasons: WaitingView['reasons']) => reasons.map(routingInWords).join(', ');
const offer = computed(() => {
  const { offer: to, reasons } = props.entry;
  const time = countDown(props.leftMs);
  if (!to) return undefined;
  return to.isMine
    ? w.value.waiting.offeredToYou({ time, why: why(reasons) })
    : w.value.waiting.offeredTo({ name: to.technicianName, time });
});

const notNow = () => attempt(() => rest.notNow(props.entry.id));
const say = () =>
  attempt(async () => {
    const text = words.value.trim();
    if (!text) return;
    await rest.sayToEntry(props.entry.id, text);
    words.value = '';
  });
</script>

<template>
  <div class="person">
    <p>
      <span class="quiet">{{ entry.isConfirmed ? w.waiting.confirmed : w.waiting.saysSo }}</span> ·
      {{ entry.description }}
    </p>
    <p v-if="offer" role="status" :data-test="entry.offer?.isMine ? 'offer' : undefined">
      <NButton
        v-if="entry.offer?.isMine"
        size="tiny"
        class="not-now"
        :aria-label="w.waiting.notNowOf({ name: entry.name })"
        @click="notNow"
        >{{ w.waiting.notNow }}</NButton
      >
      <Said :of="offer">
        <template #b="{ text }"
          ><b>{{ text }}</b></template
        >
        <template #time="{ text }"
          ><span class="tabular">{{ text }}</span></template
        >
      </Said>
    </p>
    <p v-else>
      {{
        entry.hurdles.length
          ? w.waiting.notOffered({ why: why(entry.hurdles) })
          : w.waiting.fits({ why: why(entry.reasons) })
      }}
    </p>
    <p v-for="(m, i) in entry.messages" :key="i">
      <Said :of="w.waiting.said({ name: firstName(m.name), text: m.text })"
        ><template #b="{ text }"
          ><b>{{ text }}</b></template
        ></Said
      >
    </p>
    <form @submit.prevent="say">
      <NInput
        v-model:value="words"
        placeholder=""
        size="small"
        :maxlength="2000"
        :input-props="{ 'aria-label': w.waiting.to({ name: entry.name }) }"
      />
      <NButton size="small" attr-type="submit">{{ w.waiting.send({ name: firstName(entry.name) }) }}</NButton>
    </form>
    <p v-if="trouble" role="alert" class="alert">{{ trouble }}</p>
  </div>
</template>

<style scoped>
.person {
  white-space: normal;
  overflow-wrap: anywhere;
}
p {
  margin: 0;
}
/* Beside the words and not before them. */
.not-now {
  float: right;
}
form {
  display: flex;
  gap: 0.5rem;
  margin-top: 0.3rem;
}
</style>
