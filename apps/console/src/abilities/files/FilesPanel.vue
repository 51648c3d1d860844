<script setup lang="ts">
import { inBackground } from '@porch/client';
import { NButton, NInput } from 'naive-ui';
import { sourceOfChosenFolder, sourceOfFile } from '@porch/pages/files';
import { computed, ref } from 'vue';
import { customersName } from '../../customers-name.ts';
import type { ConsoleSession } from '../console-ability.ts';
import ChooseFiles from './ChooseFiles.vue';
import FileRow from './FileRow.vue';
import NamesThere from './NamesThere.vue';
import { filesTool } from './tool.ts';
import { w } from '../../words/index.ts';

const props = defineProps<{ session: ConsoleSession }>();
const tool = props.session.tool(filesTool);
const { trouble, isDragged, mayGive, mayFetch } = tool;
const path = ref('');
const isBrowsing = ref(false);
const files = computed(() => Object.values(props.session.state.value.slices.files).reverse());
const customer = computed(() => customersName(props.session.state.value));

const give = (files: File[]) =>
  inBackground('offering files', tool.giveSources(files.map((file) => sourceOfFile(file))));
function giveFolder(files: File[]): void {
  const source = sourceOfChosenFolder(files);
  if (source) inBackground('offering a folder', tool.giveSources([source]));
}
</script>

<template>
  <section class="files" :aria-label="w.files.title">
    <h2>{{ w.files.title }}</h2>
    <p v-if="!mayGive && !mayFetch" class="quiet">{{ w.files.askFirst }}</p>
    <div v-if="mayGive" class="give" :class="{ dragged: isDragged }">
      <ChooseFiles id="give-files" :label="w.files.give({ computer: session.theirComputer.value })" @chosen="give" />
      <ChooseFiles
        id="give-folder"
        :label="w.files.giveFolder({ computer: session.theirComputer.value })"
        is-folder
        @chosen="giveFolder"
      />
      <p class="quiet">{{ isDragged ? w.files.dropTo({ name: customer }) : w.files.dropHere }}</p>
    </div>
    <form v-if="mayFetch" @submit.prevent="tool.fetch(path)">
      <NInput
        v-model:value="path"
        size="small"
        placeholder="Documents/printer-settings.conf"
        :input-props="{ 'aria-label': w.files.path }"
      />
      <NButton attr-type="submit" size="small">{{ w.files.fetch }}</NButton>
    </form>
    <NButton v-if="mayFetch" size="small" class="browse" data-test="browse-files" @click="isBrowsing = true">{{
      w.files.browse
    }}</NButton>
    <NamesThere v-if="isBrowsing && mayFetch" :session="session" :customer="customer" @close="isBrowsing = false" />
    <p v-if="trouble" role="alert" class="trouble">{{ trouble }}</p>
    <ul>
      <FileRow v-for="file in files" :key="file.id" :file="file" :session="session" />
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
.browse {
  margin-top: 0.4rem;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0.5rem 0 0;
  display: grid;
  gap: 0.6rem;
}
.give {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  align-items: center;
  padding: 0.5rem;
  border: 1px dashed var(--line);
  border-radius: 8px;
}
.give.dragged {
  border: 2px solid var(--accent);
}
.give p {
  margin: 0;
  flex-basis: 100%;
}
</style>
