<script setup lang="ts">
import { runbookKinds, type RunbookKind } from '@porch/core';
import { runbookScopes, runbookStates, type RunbookScope, type RunbookState } from '@porch/wire';
import { NAlert, NButton, NInput, NSpin } from 'naive-ui';
import { ref, shallowRef } from 'vue';
import { useDesk } from '../../desk.ts';
import { saveAsArchive } from '../../save-as-archive.ts';
import { w } from '../../words/index.ts';
import { textsOf } from '../library/text-files.ts';
import { useFound } from '../library/use-found.ts';
import { aboutAction, resultOf, signerOf } from './action-words.ts';

/* The desk's library of prepared actions: looked for, brought in and taken out as packs. */
const { rest } = useDesk();
const filter = ref({ words: '', topic: '', kind: '' as RunbookKind | '', state: '' as RunbookState | '' });
const scope = ref<RunbookScope>('desk');
const brought = shallowRef<Awaited<ReturnType<typeof rest.importPack>>>();
const picked = ref<HTMLInputElement>();
const { items, next, topics, isFiltered, look, trouble, isBusy, attempt } = useFound(filter, (asked) =>
  rest.runbookActions(asked),
);

const bringIn = (files: FileList | null) =>
  attempt(async () => {
    const chosen = await textsOf(files);
    if (picked.value) picked.value.value = '';
    if (chosen.length) brought.value = await rest.importPack(chosen, scope.value);
    await look();
  });
const takeOut = () => attempt(async () => saveAsArchive('runbook-pack', await rest.exportPack()));
</script>

<template>
  <main class="runbook">
    <h1>{{ w.runbook.title }}</h1>
    <p class="quiet">{{ w.runbook.about }}</p>
    <form class="filters" role="search" @submit.prevent="look()">
      <NInput
        v-model:value="filter.words"
        :placeholder="w.runbook.find"
        :maxlength="200"
        :input-props="{ 'aria-label': w.runbook.find, type: 'search' }"
        data-test="action-search"
      />
      <select v-model="filter.topic" :aria-label="w.runbook.topic">
        <option value="">{{ w.runbook.everyTopic }}</option>
        <option v-for="one in topics" :key="one">{{ one }}</option>
      </select>
      <select v-model="filter.kind" :aria-label="w.runbook.kind">
        <option value="">{{ w.runbook.everyKind }}</option>
        <option v-for="one in runbookKinds" :key="one" :value="one">{{ w.runbook.kinds[one] }}</option>
      </select>
      <select v-model="filter.state" :aria-label="w.runbook.state" data-test="action-state">
        <option value="">{{ w.runbook.everyState }}</option>
        <option v-for="one in runbookStates" :key="one" :value="one">{{ w.runbook.states[one] }}</option>
      </select>
    </form>
    <p class="acts">
      <RouterLink to="/runbook/new">{{ w.runbook.write }}</RouterLink>
      <NButton size="small" @click="picked?.click()">{{ w.runbook.bringIn }}</NButton>
      <select v-model="scope" :aria-label="w.runbook.whose" data-test="pack-scope">
        <option v-for="one in runbookScopes" :key="one" :value="one">{{ w.runbook.scopes[one] }}</option>
      </select>
      <input ref="picked" type="file" multiple hidden data-test="pack-files" @change="bringIn(picked?.files ?? null)" />
      <NButton size="small" data-test="pack-export" @click="takeOut">{{ w.runbook.takeOut }}</NButton>
    </p>
    <NAlert v-if="trouble" type="error" :show-icon="false" role="alert">
      {{ trouble }} <NButton text type="primary" @click="look()">{{ w.pastSessions.tryAgain }}</NButton>
    </NAlert>
    <div role="status">
      <div v-if="brought" class="card" data-test="brought">
        <p class="key">{{ signerOf(brought.signer) }}</p>
        <ul>
          <li v-for="one in brought.items" :key="one.file">
            <RouterLink v-if="one.id" :to="`/runbook/${one.id}`">{{ resultOf(one) }}</RouterLink>
            <template v-else>{{ resultOf(one) }}</template>
          </li>
        </ul>
      </div>
    </div>
    <NSpin v-if="!items && isBusy" :description="w.runbook.looking" />
    <p v-else-if="items && !items.length" class="quiet" role="status">
      {{ isFiltered ? w.runbook.noneFits : w.runbook.none }}
    </p>
    <ul v-else-if="items" class="rows">
      <li v-for="one in items" :key="one.id" class="card" data-test="action">
        <RouterLink :to="`/runbook/${one.id}`">{{ one.title }}</RouterLink>
        <b v-if="one.state !== 'approved'" class="open">{{ w.runbook.states[one.state] }}</b>
        <p>{{ one.about }}</p>
        <p class="quiet">{{ aboutAction(one) }}</p>
      </li>
    </ul>
    <NButton v-if="next" size="small" :loading="isBusy" @click="look(next)">{{ w.runbook.more }}</NButton>
  </main>
</template>

<style scoped>
.runbook {
  max-width: 72rem;
  margin: 0 auto;
  padding: 1rem;
  display: grid;
  gap: 0.8rem;
  justify-items: start;
}
.runbook > * {
  width: 100%;
}
.filters,
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem 0.8rem;
  align-items: center;
  margin: 0;
}
.filters > :first-child {
  flex: 1 1 14rem;
}
.rows p,
.runbook > p,
.key {
  margin: 0;
  overflow-wrap: anywhere;
}
.runbook a {
  display: inline-block;
  padding: 2px 0;
}
.open {
  margin-left: 0.6rem;
  color: var(--amber);
}
</style>
