<script setup lang="ts">
import { inBackground, type FileToSend } from '@porch/client';
import { consentHolderOf, type FileTransfer } from '@porch/core';
import { NButton, NInput, NProgress } from 'naive-ui';
import { computed, onScopeDispose, ref } from 'vue';
import { inWords } from '../../in-words.ts';
import { blobSink } from './blob-sink.ts';
import type { ConsoleSession } from '../console-ability.ts';
import { filesTool } from './tool.ts';
import { reasonInWords, speech, w } from '../../words/index.ts';

const props = defineProps<{ session: ConsoleSession }>();
const { transfers, progress } = props.session.tool(filesTool);
const path = ref('');
const trouble = ref('');
const picker = ref<HTMLInputElement>();
const files = computed(() => Object.values(props.session.state.value.slices.files).reverse());
const mayGive = computed(() => (props.session.told.value, props.session.may('give-files')));
const mayFetch = computed(() => (props.session.told.value, props.session.may('fetch-files')));

/** Files asked for by their path: taken as soon as they are offered, since asking was the yes. */
const wanted = new Set<string>();
const offs = [
  transfers.listeners.on('message', ({ message }) => {
    if (message.type === 'fetchRefused') trouble.value = w.value.files.notFetched({ why: reasonInWords(message.why) });
    else if (message.type === 'fetchStarted') {
      // The offer goes another way, and may have been here first.
      if (props.session.state.value.slices.files[message.fileId]) inBackground('taking a file', take(message.fileId));
      else wanted.add(message.fileId);
    }
  }),
  props.session.connection.on('entry', ({ event }) => {
    if (event.type === 'fileOffered' && wanted.delete(event.fileId)) inBackground('taking a file', take(event.fileId));
  }),
];
// The shelf opens and folds many times in a session.
onScopeDispose(() => offs.forEach((off) => off()));

async function attempt(work: () => Promise<unknown>): Promise<void> {
  trouble.value = '';
  try {
    await work();
  } catch (error) {
    trouble.value = inWords(error);
  }
}
function give(event: Event): void {
  const chosen = [...((event.target as HTMLInputElement).files ?? [])];
  const { holderId } = props.session.state.value;
  if (!holderId) return;
  for (const file of chosen) {
    const source: FileToSend = {
      name: file.name,
      sizeBytes: file.size,
      read: async (offset, length) => new Uint8Array(await file.slice(offset, offset + length).arrayBuffer()),
    };
    inBackground(
      'offering a file',
      attempt(() => transfers.offer(source, holderId)),
    );
  }
  if (picker.value) picker.value.value = '';
}
function fetchFile(): void {
  const holder = consentHolderOf(props.session.state.value);
  if (!holder || !path.value.trim()) return;
  trouble.value = '';
  transfers.tell(holder.seat, { type: 'fetch', requestId: crypto.randomUUID(), path: path.value.trim() });
}
function take(fileId: string): Promise<void> {
  const name = props.session.connection.state.slices.files[fileId]?.name ?? 'file';
  return attempt(() => transfers.accept(fileId, blobSink(name)));
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
    <form v-if="mayFetch" @submit.prevent="fetchFile">
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
.trouble {
  color: var(--red);
}
</style>
