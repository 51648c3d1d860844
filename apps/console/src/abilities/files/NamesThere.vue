<script setup lang="ts">
import { inBackground, type FileToSend, type NamesThere } from '@porch/client';
import { NButton, NModal } from 'naive-ui';
import { sourceOfChosenFolder, sourceOfFile } from '@porch/pages/files';
import { computed, ref, shallowRef } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import ChooseFiles from './ChooseFiles.vue';
import { filesTool } from './tool.ts';
import { speech, w } from '../../words/index.ts';

const props = defineProps<{ session: ConsoleSession; customer: string }>();
const emit = defineEmits<{ close: [] }>();
const tool = props.session.tool(filesTool);
const { mayGive } = tool;
const there = shallowRef<NamesThere>();
const isReading = ref(false);
const mine = shallowRef<readonly { name: string; sizeBytes: number; source: FileToSend }[]>([]);

async function look(path: string): Promise<void> {
  if (isReading.value) return;
  isReading.value = true;
  const found = await tool.look(path);
  isReading.value = false;
  if (found) there.value = found;
}
const isHome = computed(() => there.value === undefined || there.value.path === '~');
const within = (name: string) => (isHome.value ? name : `${there.value?.path ?? ''}/${name}`);
const up = () => look((there.value?.path ?? '').split('/').slice(0, -1).join('/'));

/** The names in a folder of the technician's own: folders in it are given whole. */
function openMine(files: readonly File[]): void {
  const byName = new Map<string, File[]>();
  for (const file of files) {
    const name = file.webkitRelativePath.split('/')[1] ?? file.name;
    byName.set(name, [...(byName.get(name) ?? []), file]);
  }
  mine.value = [...byName].flatMap(([name, files]) => {
    const [only] = files;
    const isFile = only?.webkitRelativePath.split('/').length === 2;
    const source = isFile ? sourceOfFile(only) : sourceOfChosenFolder(files, 2);
    return source ? [{ name: isFile ? name : `${name}/`, sizeBytes: source.sizeBytes, source }] : [];
  });
}
const THEIRS = 'application/x-porch-theirs';
const MINE = 'application/x-porch-mine';
const drag = (event: DragEvent, kind: string, name: string) => event.dataTransfer?.setData(kind, name);
const dropsOf = (event: DragEvent, kind: string) => {
  if (event.dataTransfer?.types.includes(kind)) event.preventDefault();
};
function dropMine(event: DragEvent): void {
  const one = mine.value.find(({ name }) => name === event.dataTransfer?.getData(MINE));
  if (!one || !mayGive.value) return;
  event.preventDefault();
  inBackground('offering a file', tool.giveSources([one.source]));
}
function dropTheirs(event: DragEvent): void {
  const name = event.dataTransfer?.getData(THEIRS);
  if (!name) return;
  event.preventDefault();
  inBackground('fetching a file', tool.fetch(within(name)));
}
inBackground('looking at names', look(''));
</script>

<template>
  <NModal :show="true" @update:show="(isShown: boolean) => isShown || emit('close')">
    <section class="both" role="dialog" aria-modal="true" :aria-label="w.files.theirs({ name: customer })">
      <div class="side" data-test="theirs" @dragover="dropsOf($event, MINE)" @drop="dropMine">
        <h2>{{ w.files.theirs({ name: customer }) }}</h2>
        <p class="where">
          <NButton size="tiny" :disabled="isHome || isReading" @click="up">{{ w.files.up }}</NButton>
          <b>{{ isHome ? w.files.home : there?.path }}</b>
        </p>
        <p v-if="isReading" class="quiet" role="status">{{ w.files.reading }}</p>
        <p v-if="tool.trouble.value" role="alert" class="trouble">{{ tool.trouble.value }}</p>
        <p v-if="there && !there.names.length" class="quiet">{{ w.files.empty }}</p>
        <div v-if="there?.names.length" class="list" tabindex="0">
          <table>
            <thead>
              <tr>
                <th scope="col">{{ w.files.name }}</th>
                <th scope="col">{{ w.files.size }}</th>
                <th scope="col">{{ w.files.changed }}</th>
                <th scope="col" aria-hidden="true"></th>
              </tr>
            </thead>
            <tbody>
              <tr
                v-for="one in there.names"
                :key="one.name"
                :draggable="one.kind === 'file' || one.kind === 'folder'"
                @dragstart="drag($event, THEIRS, one.name)"
              >
                <td>
                  <NButton
                    v-if="one.kind === 'folder'"
                    text
                    :aria-label="w.files.openThis({ name: one.name })"
                    @click="look(within(one.name))"
                    >{{ one.name }}/</NButton
                  >
                  <template v-else>{{ one.name }}</template>
                </td>
                <td>{{ one.kind === 'file' ? speech.bytes(one.sizeBytes) : w.files.kinds[one.kind] }}</td>
                <td>{{ one.kind === 'kept' ? '' : speech.dayAndTime(one.changedAtMs) }}</td>
                <td>
                  <NButton
                    v-if="one.kind === 'file' || one.kind === 'folder'"
                    size="tiny"
                    :aria-label="w.files.fetchThis({ name: one.name })"
                    @click="tool.fetch(within(one.name))"
                    >{{ w.files.fetch }}</NButton
                  >
                </td>
              </tr>
            </tbody>
          </table>
        </div>
        <p v-if="there?.isCut" class="quiet">{{ w.files.isCut }}</p>
      </div>
      <div class="side" data-test="mine" @dragover="dropsOf($event, THEIRS)" @drop="dropTheirs">
        <h2>{{ w.files.yours }}</h2>
        <ChooseFiles id="open-mine" :label="w.files.mine" is-folder @chosen="openMine" />
        <div v-if="mine.length" class="list" tabindex="0">
          <table>
            <tbody>
              <tr v-for="one in mine" :key="one.name" draggable="true" @dragstart="drag($event, MINE, one.name)">
                <td>{{ one.name }}</td>
                <td>{{ speech.bytes(one.sizeBytes) }}</td>
                <td>
                  <NButton
                    size="tiny"
                    :disabled="!mayGive"
                    :aria-label="w.files.giveThis({ name: one.name })"
                    @click="tool.giveSources([one.source])"
                    >{{ w.files.give }}</NButton
                  >
                </td>
              </tr>
            </tbody>
          </table>
        </div>
        <p class="quiet">{{ w.files.savesTo }}</p>
      </div>
      <p class="end">
        <NButton size="small" @click="emit('close')">{{ w.files.close }}</NButton>
      </p>
    </section>
  </NModal>
</template>

<style scoped>
.both {
  display: grid;
  grid-template-columns: 3fr 2fr;
  gap: 1rem;
  width: min(1080px, 94vw);
  max-height: 86vh;
  overflow: auto;
  padding: 1rem;
  background: var(--card);
  color: var(--ink);
  border-radius: 12px;
}
.side {
  min-width: 0;
}
.where {
  display: flex;
  gap: 0.5rem;
  align-items: center;
  overflow-wrap: anywhere;
}
.list {
  max-height: 50vh;
  overflow: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  text-align: left;
  padding: 0.2rem 0.4rem;
  overflow-wrap: anywhere;
}
tr[draggable='true'] {
  cursor: grab;
}
.end {
  grid-column: 1 / -1;
  margin: 0;
  text-align: right;
}
@media (max-width: 800px) {
  .both {
    grid-template-columns: 1fr;
  }
}
</style>
