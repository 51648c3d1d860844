<script setup lang="ts">
import { Folded, Said } from '@porch/pages';
import { computed, ref, watch } from 'vue';
import { purposeInWords, type ToldEntry } from '@porch/core';
import { exactly, toTheMinute } from '../../times.ts';
import type { TechnicianSession } from './technician-session.ts';
import { ledger, w } from '../../words/index.ts';

const props = defineProps<{ session: TechnicianSession }>();
const list = ref<HTMLOListElement>();
const filters = ['all', 'chat', 'acts'] as const;
const opened = ref(new Set<number>());

type Group =
  | { key: number; chat: ToldEntry }
  | { key: number; acts: ToldEntry[] }
  | { key: number; aside: { name: string; text: string; atMs: number } };

/** Words stand by themselves; acts that follow one another fold into one line until opened. */
const groups = computed<Group[]>(() => {
  const all: Group[] = [];
  for (const entry of props.session.told.value) {
    const last = all.at(-1);
    if (entry.event.type === 'chatSent') all.push({ key: entry.seq, chat: entry });
    else if (last && 'acts' in last) last.acts.push(entry);
    else all.push({ key: entry.seq, acts: [entry] });
  }
  const asides: Group[] = props.session.asides.value.map((aside) => ({ key: -aside.seq, aside }));
  const timeOf = (g: Group) => ('chat' in g ? g.chat.atMs : 'aside' in g ? g.aside.atMs : (g.acts.at(-1)?.atMs ?? 0));
  return asides.length ? [...all, ...asides].sort((a, b) => timeOf(a) - timeOf(b)) : all;
});
/** What they came with stays in sight. */
const about = computed(() => purposeInWords(props.session.state.value.purpose ?? '', ledger.value));
const isMine = (entry: ToldEntry) => props.session.state.value.participants[entry.event.by]?.side === 'desk';
function toggle(key: number): void {
  if (!opened.value.delete(key)) opened.value.add(key);
}

const filter = ref<'all' | 'chat' | 'acts'>('all');
const shown = computed(() =>
  groups.value.filter((g) => filter.value === 'all' || ('acts' in g ? 'acts' : 'chat') === filter.value),
);
watch(shown, () => list.value?.scrollTo({ top: list.value.scrollHeight }), { immediate: true, flush: 'post' });
</script>

<template>
  <div class="filters" role="group" :aria-label="w.ledger.filter">
    <button
      v-for="one in filters"
      :key="one"
      type="button"
      :aria-pressed="filter === one"
      :data-test="`filter-${one}`"
      @click="filter = one"
    >
      {{ w.ledger.filters[one] }}
    </button>
  </div>
  <details v-if="about" class="ticket" open data-test="ticket-note">
    <summary>{{ w.ledger.ticket }}</summary>
    <p>{{ about }}</p>
  </details>
  <ol ref="list" class="ledger" :aria-label="w.ledger.title" aria-live="polite" tabindex="0" data-test="ledger">
    <li v-for="group in shown" :key="group.key">
      <div v-if="'chat' in group" class="chat" :class="{ mine: isMine(group.chat) }" :title="exactly(group.chat.atMs)">
        <small class="quiet"
          ><Said :of="w.ledger.chatHead({ name: group.chat.who, time: toTheMinute(group.chat.atMs) })"
            ><template #time="{ text }"
              ><span class="tabular">{{ text }}</span></template
            ></Said
          ></small
        >
        <p>{{ group.chat.event.type === 'chatSent' ? (group.chat.event.personal?.text ?? w.ledger.erased) : '' }}</p>
      </div>
      <div v-else-if="'aside' in group" class="aside" :title="exactly(group.aside.atMs)">
        <small>{{ w.ledger.asideHead({ name: group.aside.name }) }}</small>
        <p>{{ group.aside.text }}</p>
      </div>
      <div v-else class="acts">
        <button
          v-if="group.acts.length > 1"
          type="button"
          :aria-expanded="opened.has(group.key)"
          @click="toggle(group.key)"
        >
          {{ opened.has(group.key) ? w.ledger.fold : w.ledger.more({ count: group.acts.length - 1 }) }}
        </button>
        <div
          v-for="entry in opened.has(group.key) ? group.acts : group.acts.slice(-1)"
          :key="entry.seq"
          class="act"
          :title="exactly(entry.atMs)"
        >
          <span class="quiet tabular">{{ toTheMinute(entry.atMs) }}</span> <Folded :text="entry.sentence" />
        </div>
      </div>
    </li>
  </ol>
</template>

<style scoped>
.ledger {
  list-style: none;
  margin: 0;
  padding: 0.6rem;
  overflow: auto;
  flex: 1;
  min-height: 6rem;
}
p,
.act {
  margin: 0;
  overflow-wrap: anywhere;
  white-space: pre-wrap;
}
.chat,
.aside {
  margin: 0.35rem 2rem 0.35rem 0;
  padding: 0.35rem 0.6rem;
  border-radius: 8px;
  background: var(--card);
  border: 1px solid var(--line);
}
.chat.mine {
  margin: 0.35rem 0 0.35rem 2rem;
  border-color: var(--accent);
}
.aside {
  background: var(--aside-ground);
  border-style: dashed;
}
.chat p {
  font-weight: 600;
}
.filters {
  display: flex;
  gap: 0.2rem;
  padding: 0.25rem 0.5rem;
}
.filters button {
  font: inherit;
  font-size: 0.85rem;
  color: inherit;
  padding: 0 0.6rem;
  background: none;
  border: 1px solid var(--quiet);
  border-radius: 999px;
  cursor: pointer;
}
.filters button[aria-pressed='true'] {
  color: var(--on-accent);
  background: var(--accent);
}
.ticket {
  padding: 0 0.6rem 0.2rem;
  font-size: 0.88rem;
}
.acts {
  padding: 0.1rem 0;
  color: var(--quiet);
  font-size: 0.85rem;
}
.acts button {
  font: inherit;
  color: var(--accent);
  background: none;
  border: 0;
  padding: 0.1rem 0.2rem;
  cursor: pointer;
  text-decoration: underline;
}
</style>
