<script setup lang="ts">
import { inBackground, type FileToSend } from '@porch/client';
import { firstName, isEffective, isUnderWay, presentOf, standingOf, takingPermissions } from '@porch/core';
import { listenForDrops, sourceOfChosenFolder, sourceOfFile, sourcesOfDrop } from '@porch/pages/files';
import { computed, onBeforeUnmount, ref } from 'vue';
import type { CustomerSession } from './customer-session.ts';
import { inWords } from './door.ts';
import { speech, stageInWords, w } from './words/index.ts';

const props = defineProps<{ session: CustomerSession }>();
const trouble = ref('');
const isDragged = ref(false);
const state = computed(() => props.session.state.value);
const taker = computed(() =>
  presentOf(state.value, 'desk').find((t) =>
    takingPermissions.some((permission) =>
      isEffective(standingOf(state.value, t.id, permission), props.session.connection.serviceNowMs),
    ),
  ),
);
const takerName = computed(() => firstName(taker.value?.name ?? w.value.session.technician));
const files = computed(() => Object.values(state.value.slices.files).reverse());

const attempt = (work: Promise<unknown>) =>
  work.then(
    () => (trouble.value = ''),
    (error: unknown) => (trouble.value = inWords(error)),
  );
async function offer(sources: readonly FileToSend[]): Promise<void> {
  for (const source of sources) {
    const to = taker.value;
    if (to) await props.session.files.offer(source, to.id);
  }
}
function chosen(event: Event): File[] {
  const picker = event.target as HTMLInputElement;
  const all = [...(picker.files ?? [])];
  picker.value = '';
  return all;
}
const give = (event: Event) => attempt(offer(chosen(event).map((file) => sourceOfFile(file))));
const giveFolder = (event: Event) => {
  const source = sourceOfChosenFolder(chosen(event));
  return attempt(offer(source ? [source] : []));
};
const cancel = (fileId: string) => attempt(props.session.files.cancel(fileId, 'cancelled by the customer'));
const setPaused = (fileId: string, isPaused: boolean) => attempt(props.session.files.setPaused(fileId, isPaused));

onBeforeUnmount(
  listenForDrops({
    over: (isOver) => (isDragged.value = isOver && taker.value !== undefined),
    dropped: (data) => inBackground('offering what was dropped', attempt(sourcesOfDrop(data).then(offer))),
  }),
);
</script>

<template>
  <section v-if="taker || files.length" class="card" aria-labelledby="files" :class="{ dragged: isDragged }">
    <h2 id="files">{{ w.files.title }}</h2>
    <template v-if="taker">
      <label for="give">{{ w.files.give({ name: takerName }) }}</label>
      <input id="give" type="file" multiple data-test="give-files" @change="give" />
      <label for="give-folder">{{ w.files.giveFolder({ name: takerName }) }}</label>
      <input id="give-folder" type="file" webkitdirectory data-test="give-folder" @change="giveFolder" />
      <p class="quiet">{{ isDragged ? w.files.dropTo({ name: takerName }) : w.files.drop }}</p>
    </template>
    <ul>
      <li v-for="file in files" :key="file.id">
        {{ file.name }}
        <span class="quiet"
          >(<template v-if="file.isFolder">{{ w.files.folder({ count: file.count }) }}, </template
          >{{ speech.bytes(file.sizeBytes) }}, {{ stageInWords(file, session.progress.value[file.id]) }})</span
        >
        <button v-if="file.stage === 'moving'" class="small" @click="setPaused(file.id, file.pausedBy === undefined)">
          {{ file.pausedBy === undefined ? w.files.letWait : w.files.goOn }}
        </button>
        <button v-if="isUnderWay(file)" class="small" @click="cancel(file.id)">{{ w.files.cancel }}</button>
      </li>
    </ul>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped>
li button {
  margin-left: 0.4rem;
}
.dragged {
  outline: 3px dashed var(--accent);
}
</style>
