<script setup lang="ts">
import { languageNames, languages, type Language } from '@porch/core';
import type { ImportedKnowledgeNote, KnowledgeNoteView } from '@porch/wire';
import { NAlert, NButton, NInput, NSpin } from 'naive-ui';
import { ref, shallowRef } from 'vue';
import { useDesk } from '../../desk.ts';
import { saveAsArchive } from '../../save-as-archive.ts';
import { w } from '../../words/index.ts';
import { textsOf } from '../library/text-files.ts';
import { useFound } from '../library/use-found.ts';
import { aboutNote } from './note-words.ts';

/* Everything that the desk wrote down about faults: looked for, brought in and taken out as files. */
const { rest } = useDesk();
const filter = ref({
  words: '',
  topic: '',
  language: '' as Language | '',
  state: '' as KnowledgeNoteView['state'] | '',
});
const brought = shallowRef<readonly ImportedKnowledgeNote[]>([]);
const picked = ref<HTMLInputElement>();
const { items, next, topics, isFiltered, look, trouble, isBusy, attempt } = useFound(filter, (asked) =>
  rest.knowledgeNotes(asked),
);

const bringIn = (files: FileList | null) =>
  attempt(async () => {
    const chosen = await textsOf(files);
    if (chosen.length) brought.value = await rest.importKnowledgeNotes(chosen);
    if (picked.value) picked.value.value = '';
    await look();
  });
const takeOut = () => attempt(async () => saveAsArchive('knowledge-notes', await rest.exportKnowledgeNotes()));
function resultOf({ file, result, why = 'text' }: ImportedKnowledgeNote): string {
  const { knowledge } = w.value;
  return result === 'refused'
    ? knowledge.refused({ file, why: knowledge.whyRefused[why] })
    : knowledge[result]({ file });
}
</script>

<template>
  <main class="knowledge">
    <h1>{{ w.knowledge.title }}</h1>
    <p class="quiet">{{ w.knowledge.about }}</p>
    <form class="filters" role="search" @submit.prevent="look()">
      <NInput
        v-model:value="filter.words"
        :placeholder="w.knowledge.find"
        :maxlength="200"
        :input-props="{ 'aria-label': w.knowledge.find, type: 'search' }"
        data-test="note-search"
      />
      <select v-model="filter.topic" :aria-label="w.knowledge.topic" data-test="note-topic">
        <option value="">{{ w.knowledge.everyTopic }}</option>
        <option v-for="one in topics" :key="one">{{ one }}</option>
      </select>
      <select v-model="filter.language" :aria-label="w.knowledge.language">
        <option value="">{{ w.knowledge.everyLanguage }}</option>
        <option v-for="one in languages" :key="one" :value="one">{{ languageNames[one] }}</option>
      </select>
      <select v-model="filter.state" :aria-label="w.knowledge.state" data-test="note-state">
        <option value="">{{ w.knowledge.everyState }}</option>
        <option value="reviewed">{{ w.knowledge.states.reviewed }}</option>
        <option value="draft">{{ w.knowledge.states.draft }}</option>
      </select>
      <span class="acts">
        <RouterLink class="write" to="/knowledge/new">{{ w.knowledge.write }}</RouterLink>
        <NButton size="small" @click="picked?.click()">{{ w.knowledge.bringIn }}</NButton>
        <input
          ref="picked"
          type="file"
          accept=".md,text/markdown"
          multiple
          hidden
          data-test="note-files"
          @change="bringIn(picked?.files ?? null)"
        />
        <NButton size="small" data-test="note-export" @click="takeOut">{{ w.knowledge.takeOut }}</NButton>
      </span>
    </form>
    <NAlert v-if="trouble" type="error" :show-icon="false" role="alert">
      {{ trouble }} <NButton text type="primary" @click="look()">{{ w.pastSessions.tryAgain }}</NButton>
    </NAlert>
    <div role="status">
      <ul v-if="brought.length" class="card brought" data-test="brought">
        <li v-for="one in brought" :key="one.file">
          <RouterLink v-if="one.id" :to="`/knowledge/${one.id}`">{{ resultOf(one) }}</RouterLink>
          <template v-else>{{ resultOf(one) }}</template>
        </li>
      </ul>
    </div>
    <NSpin v-if="!items && isBusy" :description="w.knowledge.looking" />
    <p v-else-if="items && !items.length" class="quiet" role="status">
      {{ isFiltered ? w.knowledge.noneFits : w.knowledge.none }}
    </p>
    <ul v-else-if="items" class="rows">
      <li v-for="note in items" :key="note.id" class="card" data-test="note">
        <RouterLink :to="`/knowledge/${note.id}`">{{ note.title }}</RouterLink>
        <b v-if="note.state === 'draft'" class="draft">{{ w.knowledge.states.draft }}</b>
        <p>{{ note.excerpt }}</p>
        <p class="quiet">{{ aboutNote(note) }}</p>
      </li>
    </ul>
    <NButton v-if="next" size="small" :loading="isBusy" @click="look(next)">{{ w.knowledge.more }}</NButton>
  </main>
</template>

<style scoped>
.knowledge {
  max-width: 72rem;
  margin: 0 auto;
  padding: 1rem;
  display: grid;
  gap: 0.8rem;
  justify-items: start;
}
.knowledge > * {
  width: 100%;
}
.filters {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  align-items: center;
}
.filters > :first-child {
  flex: 1 1 14rem;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.8rem;
  align-items: center;
}
.rows p,
.knowledge > p {
  margin: 0;
}
.brought {
  margin: 0;
  padding-left: 2rem;
}
.knowledge a {
  display: inline-block;
  padding: 2px 0;
}
.draft {
  margin-left: 0.6rem;
  color: var(--amber);
}
</style>
