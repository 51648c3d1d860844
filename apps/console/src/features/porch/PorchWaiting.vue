<script setup lang="ts">
import { languageNames } from '@porch/core';
import type { PorchView, WaitingView } from '@porch/wire';
import { NButton, NInput } from 'naive-ui';
import { computed, reactive, ref } from 'vue';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { ago, countDown, exactly, useNow } from '../../times.ts';

const props = defineProps<{ porch: PorchView; receivedAtMs: number }>();
const emit = defineEmits<{ help: [entryId: string] }>();
const { rest } = useDesk();
const now = useNow();
const trouble = ref('');
const words = reactive<Record<string, string>>({});
const leftMs = (entry: WaitingView) => (entry.offer?.remainingMs ?? 0) - (now.value - props.receivedAtMs);
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
      Waiting now <span v-if="porch.waiting.length" class="tabular">({{ porch.waiting.length }})</span>
    </h2>
    <p v-if="!porch.waiting.length" class="quiet">Nobody is waiting.</p>
    <p v-if="trouble" role="alert" class="alert">{{ trouble }}</p>
    <ul class="rows">
      <li v-for="entry in sorted" :key="entry.id" class="card waits" data-test="entry">
        <div>
          <b>{{ entry.name }}</b> ({{ entry.isConfirmed ? 'known to the directory' : 'says so themselves' }}) ·
          {{ entry.topic }} · {{ languageNames[entry.language] }}{{ entry.ticketRef ? ` · ${entry.ticketRef}` : ''
          }}{{ entry.wants === 'chat' ? ' · chat only' : ''
          }}{{ entry.callBack ? ` · call back ${entry.callBack}` : '' }}
          <p>{{ entry.description }}</p>
          <p v-if="entry.offer?.isMine" role="status" class="yours" data-test="offer">
            <b>Offered to you</b>, <span class="tabular">{{ countDown(leftMs(entry)) }}</span> to answer:
            {{ entry.reasons.join(', ') }}.
          </p>
          <p v-else-if="entry.offer">
            Offered to {{ entry.offer.technicianName }}, <span class="tabular">{{ countDown(leftMs(entry)) }}</span> to
            answer.
          </p>
          <p v-else>
            {{
              entry.hurdles.length ? `Not offered to you: ${entry.hurdles.join(', ')}.` : `${entry.reasons.join(', ')}.`
            }}
          </p>
        </div>
        <span class="tabular" :title="exactly(entry.sinceMs)">{{ ago(entry.sinceMs, now) }}</span>
        <span class="row">
          <NButton
            type="primary"
            :disabled="entry.offer !== undefined && !entry.offer.isMine && leftMs(entry) > 0"
            :aria-label="`Help ${entry.name}`"
            @click="emit('help', entry.id)"
            >Help</NButton
          >
          <NButton v-if="entry.offer?.isMine" :aria-label="`Not now: ${entry.name}`" @click="notNow(entry)"
            >Not now</NButton
          >
        </span>
        <details class="talk" :open="entry.messages.length > 0">
          <summary>{{ entry.messages.length ? `Words (${entry.messages.length})` : 'Write to them' }}</summary>
          <p v-for="(m, i) in entry.messages" :key="i">
            <b>{{ m.name.split(' ')[0] }}:</b> {{ m.text }}
          </p>
          <form @submit.prevent="say(entry)">
            <NInput
              placeholder=""
              :value="words[entry.id] ?? ''"
              size="small"
              :maxlength="2000"
              @update:value="words[entry.id] = $event"
              :input-props="{ 'aria-label': `To ${entry.name}` }"
            />
            <NButton size="small" attr-type="submit">Send to {{ entry.name.split(' ')[0] }}</NButton>
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
