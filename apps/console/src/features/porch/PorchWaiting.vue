<script setup lang="ts">
import { Said } from '@porch/pages';
import { firstName, languageNames } from '@porch/core';
import type { PorchView, WaitingView } from '@porch/wire';
import { NButton, NInput } from 'naive-ui';
import { computed, reactive, ref } from 'vue';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { routingInWords } from './routing-words.ts';
import { ago, countDown, exactly, useNow } from '../../times.ts';
import { w } from '../../words/index.ts';

const props = defineProps<{ porch: PorchView; receivedAtMs: number }>();
const emit = defineEmits<{ help: [entryId: string] }>();
const { rest } = useDesk();
const now = useNow();
const trouble = ref('');
const words = reactive<Record<string, string>>({});
const leftMs = (entry: WaitingView) => (entry.offer?.remainingMs ?? 0) - (now.value - props.receivedAtMs);
const aboutOf = ({ topic, language: theirs, ticketRef, wants, callBack }: WaitingView) => [
  topic,
  languageNames[theirs],
  ...(ticketRef ? [ticketRef] : []),
  ...(wants === 'chat' ? [w.value.waiting.chatOnly] : []),
  ...(callBack ? [w.value.waiting.callBack({ number: callBack })] : []),
];
const reasonsOf = (reasons: WaitingView['reasons']) => reasons.map(routingInWords).join(', ');
const sorted = computed(() =>
  [...props.porch.waiting].sort((a, b) => Number(b.offer?.isMine ?? false) - Number(a.offer?.isMine ?? false)),
);

async function attempt(work: () => Promise<unknown>): Promise<void> {
  trouble.value = '';
  await work().catch((error: unknown) => (trouble.value = inWords(error)));
}
const notNow = (entry: WaitingView) => attempt(() => rest.notNow(entry.id));
const say = (entry: WaitingView) =>
  attempt(async () => {
    const text = (words[entry.id] ?? '').trim();
    if (!text) return;
    await rest.sayToEntry(entry.id, text);
    words[entry.id] = '';
  });
</script>

<template>
  <section aria-labelledby="waiting">
    <h2 id="waiting">
      <Said v-if="porch.waiting.length" :of="w.waiting.titleCount({ count: porch.waiting.length })"
        ><template #b="{ text }"
          ><span class="tabular">{{ text }}</span></template
        ></Said
      >
      <template v-else>{{ w.waiting.title }}</template>
    </h2>
    <p v-if="!porch.waiting.length" class="quiet">{{ w.waiting.nobody }}</p>
    <p v-if="trouble" role="alert" class="alert">{{ trouble }}</p>
    <ul class="rows">
      <li v-for="entry in sorted" :key="entry.id" class="card waits" data-test="entry">
        <div>
          <b>{{ entry.name }}</b> ({{ entry.isConfirmed ? w.waiting.confirmed : w.waiting.saysSo }}) ·
          {{ aboutOf(entry).join(' · ') }}
          <p>{{ entry.description }}</p>
          <p v-if="entry.offer?.isMine" role="status" class="yours" data-test="offer">
            <Said :of="w.waiting.offeredToYou({ time: countDown(leftMs(entry)), why: reasonsOf(entry.reasons) })">
              <template #b="{ text }"
                ><b>{{ text }}</b></template
              >
              <template #time="{ text }"
                ><span class="tabular">{{ text }}</span></template
              >
            </Said>
          </p>
          <p v-else-if="entry.offer">
            <Said :of="w.waiting.offeredTo({ name: entry.offer.technicianName, time: countDown(leftMs(entry)) })"
              ><template #time="{ text }"
                ><span class="tabular">{{ text }}</span></template
              ></Said
            >
          </p>
          <p v-else>
            {{
              entry.hurdles.length
                ? w.waiting.notOffered({ why: reasonsOf(entry.hurdles) })
                : w.waiting.fits({ why: reasonsOf(entry.reasons) })
            }}
          </p>
        </div>
        <span class="tabular" :title="exactly(entry.sinceMs)">{{ ago(entry.sinceMs, now) }}</span>
        <span class="row">
          <NButton
            type="primary"
            :disabled="entry.offer !== undefined && !entry.offer.isMine && leftMs(entry) > 0"
            :aria-label="w.waiting.helpOf({ name: entry.name })"
            @click="emit('help', entry.id)"
            >{{ w.waiting.help }}</NButton
          >
          <NButton
            v-if="entry.offer?.isMine"
            :aria-label="w.waiting.notNowOf({ name: entry.name })"
            @click="notNow(entry)"
            >{{ w.waiting.notNow }}</NButton
          >
        </span>
        <details class="talk" :open="entry.messages.length > 0">
          <summary>{{ w.waiting.words({ count: entry.messages.length }) }}</summary>
          <p v-for="(m, i) in entry.messages" :key="i">
            <Said :of="w.waiting.said({ name: firstName(m.name), text: m.text })"
              ><template #b="{ text }"
                ><b>{{ text }}</b></template
              ></Said
            >
          </p>
          <form @submit.prevent="say(entry)">
            <NInput
              placeholder=""
              :value="words[entry.id] ?? ''"
              size="small"
              :maxlength="2000"
              @update:value="words[entry.id] = $event"
              :input-props="{ 'aria-label': w.waiting.to({ name: entry.name }) }"
            />
            <NButton size="small" attr-type="submit">{{ w.waiting.send({ name: firstName(entry.name) }) }}</NButton>
          </form>
        </details>
      </li>
    </ul>
  </section>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: 1fr auto auto;
  gap: 0.4rem 0.8rem;
  align-items: center;
}
.waits {
  background: var(--amber-ground);
  border-color: var(--amber);
}
p {
  margin: 0;
}
.row,
form {
  display: flex;
  gap: 0.5rem;
}
.talk {
  grid-column: 1 / -1;
}
@media (max-width: 500px) {
  li {
    grid-template-columns: 1fr auto;
  }
  li div {
    grid-column: 1 / -1;
  }
}
</style>
