<script setup lang="ts">
import { inBackground } from '@porch/client';
import { purposeInWords } from '@porch/core';
import type { EarlierSession, KnowledgeNote, KnowledgeNoteView } from '@porch/wire';
import { NAlert, NButton, NInput } from 'naive-ui';
import { computed, defineAsyncComponent, ref, shallowRef } from 'vue';
import { consoleAbilities } from '../../abilities/index.ts';
import { useDesk } from '../../desk.ts';
import { exactly } from '../../times.ts';
import { useAttempt } from '../../use-attempt.ts';
import { ledger, w } from '../../words/index.ts';
import { oneLine } from '../porch/one-line.ts';
import type { TechnicianSession } from './technician-session.ts';
import type { LookUp } from './use-look-up.ts';

/* What was before, and what the desk knows, beside the session from its first second. The customer sees nothing of it. */
const props = defineProps<{ session: TechnicianSession; found: LookUp }>();
const emit = defineEmits<{ show: [name: string] }>();
/** Whoever says that they are somebody else has that person's sessions stand here. */
const isUnconfirmed = computed(() => props.session.state.value.identity === 'said-so-themselves');
const added = computed(() =>
  consoleAbilities.flatMap(({ name, lookUp }) => (lookUp?.isShown(props.session) ? [{ name, view: lookUp.view }] : [])),
);
/** Loaded once somebody opens a note. */
const NoteText = defineAsyncComponent(() => import('../knowledge/NoteText.ts'));
const { rest } = useDesk();
const words = ref('');
const searched = shallowRef<readonly KnowledgeNoteView[]>();
const opened = shallowRef<KnowledgeNote>();
const { earlier, trouble: lookTrouble, look } = props.found;
const { trouble, isBusy, attempt } = useAttempt();
const notes = computed(() => searched.value ?? props.found.notes.value ?? []);

const search = () =>
  attempt(async () => {
    searched.value = words.value.trim()
      ? (await rest.knowledgeNotes({ words: words.value, limit: 10 })).items
      : undefined;
  });
const open = (note: KnowledgeNoteView) =>
  inBackground(
    'opening a knowledge note',
    attempt(
      async () => void (opened.value = opened.value?.id === note.id ? undefined : await rest.knowledgeNote(note.id)),
    ),
  );
function howOf({ session, shares }: EarlierSession): string {
  const { common, lookUp } = w.value;
  return oneLine(
    session.outcome ? common.outcomes[session.outcome] : common.phases[session.phase],
    session.technicianName,
    lookUp.shares[shares.length > 1 ? 'both' : (shares[0] ?? 'customer')],
  );
}
</script>

<template>
  <section class="look-up" :aria-label="w.lookUp.title" data-test="look-up">
    <component :is="one.view" v-for="one in added" :key="one.name" :session="session" @whole="emit('show', one.name)" />
    <h2>{{ w.lookUp.before }}</h2>
    <NAlert v-if="lookTrouble" type="error" :show-icon="false" role="alert">
      {{ lookTrouble }} <NButton text type="primary" @click="look">{{ w.pastSessions.tryAgain }}</NButton>
    </NAlert>
    <p v-if="!earlier && !lookTrouble" class="quiet">{{ w.lookUp.looking }}</p>
    <p v-if="earlier?.length && isUnconfirmed" class="quiet" data-test="unconfirmed">{{ w.lookUp.unconfirmed }}</p>
    <p v-if="earlier && !earlier.length" class="quiet">{{ w.lookUp.nothingBefore }}</p>
    <ul v-else-if="earlier">
      <li v-for="one in earlier" :key="one.session.id" data-test="earlier">
        <RouterLink v-if="one.mayRead" :to="`/past-sessions/${one.session.id}`" class="tabular">{{
          exactly(one.session.preparedAtMs)
        }}</RouterLink>
        <span v-else class="tabular">{{ exactly(one.session.preparedAtMs) }}</span>
        <b>{{ purposeInWords(one.session.purpose, ledger) }}</b>
        <span class="quiet">{{ howOf(one) }}</span>
        <q v-if="one.note">{{ one.note }}</q>
      </li>
    </ul>
    <h2>{{ w.lookUp.notes }}</h2>
    <form role="search" @submit.prevent="search">
      <NInput
        v-model:value="words"
        size="small"
        :placeholder="w.knowledge.find"
        :maxlength="200"
        :input-props="{ 'aria-label': w.knowledge.find, type: 'search' }"
        data-test="look-up-search"
      />
      <NButton size="small" attr-type="submit" :loading="isBusy">{{ w.lookUp.look }}</NButton>
    </form>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
    <p class="quiet">{{ searched ? w.lookUp.bySearch : w.lookUp.byItself }}</p>
    <p v-if="!notes.length" class="quiet" role="status">{{ w.knowledge.noneFits }}</p>
    <ul v-else>
      <li v-for="note in notes" :key="note.id" data-test="found-note">
        <button type="button" class="note" :aria-expanded="opened?.id === note.id" @click="open(note)">
          {{ note.title }}
        </button>
        <b v-if="note.state === 'draft'" class="draft">{{ w.knowledge.states.draft }}</b>
        <NoteText v-if="opened?.id === note.id" :text="opened.text" />
        <span v-else class="quiet">{{ note.excerpt }}</span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.look-up {
  padding: 0.6rem;
  overflow-wrap: anywhere;
}
h2 {
  font-size: 1rem;
}
ul {
  list-style: none;
  margin: 0 0 0.8rem;
  padding: 0;
  display: grid;
  gap: 0.6rem;
}
li {
  display: grid;
  justify-items: start;
  border-left: 3px solid var(--line);
  padding-left: 0.5rem;
}
q {
  quotes: none;
  background: var(--aside-ground);
  padding: 0.1rem 0.4rem;
  border-radius: 4px;
  white-space: pre-line;
}
form {
  display: flex;
  gap: 0.4rem;
}
p {
  margin: 0.2rem 0;
}
.note {
  border: 0;
  padding: 0.15rem 0;
  min-height: 24px;
  background: none;
  color: var(--accent);
  font: inherit;
  text-align: left;
  cursor: pointer;
}
.draft {
  color: var(--amber);
}
li :deep(.note-text) {
  width: 100%;
}
li :deep(.note-text > :first-child) {
  margin-top: 0.2rem;
}
li :deep(ol),
li :deep(ul) {
  padding-left: 1.2rem;
}
</style>
