<script setup lang="ts">
import { inBackground } from '@porch/client';
import type { FileTransfer } from '@porch/core';
import { NButton, NInput, NProgress } from 'naive-ui';
import { computed, ref } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import { filesTool } from './tool.ts';
import { speech, w } from '../../words/index.ts';

const props = defineProps<{ session: ConsoleSession }>();
const tool = props.session.tool(filesTool);
const { transfers, progress, trouble, attempt, take } = tool;
const path = ref('');
const picker = ref<HTMLInputElement>();
const files = computed(() => Object.values(props.session.state.value.slices.files).reverse());
const mayGive = computed(() => (props.session.told.value, props.session.may('give-files')));
const mayFetch = computed(() => (props.session.told.value, props.session.may('fetch-files')));

function give(event: Event): void {
  for (const file of (event.target as HTMLInputElement).files ?? []) inBackground('offering a file', tool.give(file));
  if (picker.value) picker.value.value = '';
}
const percent = (file: FileTransfer) => Math.round((progress.value[file.id] ?? 0) * 100);
const isFromUs = (file: FileTransfer) => props.session.state.value.participants[file.fromId]?.side === 'desk';
</script>

<template>
  <section class="files" :aria-label="w.files.title">
    <h2>{{ w.files.title }}</h2>
    <p v-if="!mayGive && !mayFetch" class="quiet">{{ w.files.askFirst }}</p>
    <template v-if="mayGive">
      <input
        id="give-files"
        ref="picker"
        class="only-heard"
        type="file"
        multiple
        data-test="give-files"
        @change="give"
      />
      <label for="give-files" class="choose">{{ w.files.give }}</label>
    </template>
    <form v-if="mayFetch" @submit.prevent="tool.fetch(path)">
      <NInput
        v-model:value="path"
        size="small"
        placeholder="Documents/printer-settings.conf"
        :input-props="{ 'aria-label': w.files.path }"
      />
      <NButton attr-type="submit" size="small">{{ w.files.fetch }}</NButton>
    </form>
    <p v-if="trouble" role="alert" class="trouble">{{ trouble }}</p>
    <ul>
      <li v-for="file in files" :key="file.id">
        <b>{{ file.name ?? w.ledger.erased }}</b>
        <span class="quiet">{{
          w.files[isFromUs(file) ? 'to' : 'from']({
            size: speech.bytes(file.sizeBytes),
            stage: w.files.stages[file.stage],
          })
        }}</span>
        <NProgress
          v-if="file.stage === 'moving'"
          :percentage="percent(file)"
          :aria-label="
            w.files.progress({ name: file.name ?? w.ledger.erased, percent: speech.percent(percent(file) / 100) })
          "
        />
        <NButton v-if="file.stage === 'offered' && !isFromUs(file)" size="tiny" type="primary" @click="take(file.id)">{{
          w.files.take
        }}</NButton>
        <NButton
          v-if="file.stage === 'offered' && !isFromUs(file)"
          size="tiny"
          @click="attempt(() => transfers.refuse(file.id))"
          >{{ w.files.no }}</NButton
        >
        <NButton
          v-if="file.stage === 'moving' || (file.stage === 'offered' && isFromUs(file))"
          size="tiny"
          @click="attempt(() => transfers.cancel(file.id))"
          >{{ w.files.cancel }}</NButton
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
.files {
  padding: 0.6rem;
}
form {
  display: flex;
  gap: 0.4rem;
  margin-top: 0.4rem;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0.5rem 0 0;
  display: grid;
  gap: 0.5rem;
}
.choose {
  display: inline-block;
  padding: 0.2rem 0.7rem;
  border: 1px solid var(--accent);
  border-radius: 8px;
  color: var(--accent);
  cursor: pointer;
}
input:focus-visible + .choose {
  outline: 3px solid var(--accent);
  outline-offset: 2px;
}
</style>
