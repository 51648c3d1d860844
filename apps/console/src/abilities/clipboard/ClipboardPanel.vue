<script setup lang="ts">
import { inBackground } from '@porch/client';
import { NButton } from 'naive-ui';
import type { ConsoleSession } from '../console-ability.ts';
import { filesTool } from '../files/tool.ts';
import { pictureTool } from '../picture/tool.ts';
import { speech, w } from '../../words/index.ts';
import { clipboardTool } from './tool.ts';

/* What could be pasted where: nothing moves without a press, but what the technician themselves copied there. */
const props = defineProps<{ session: ConsoleSession }>();
const tool = props.session.tool(clipboardTool);
const files = props.session.tool(filesTool);
const picture = props.session.tool(pictureTool);
const { offer, word, mayGive, mayRead, moving } = tool;
const typed = tool.typing.share;
function fetchFile(path: string): void {
  inBackground('fetching a file', files.fetch(path));
  word.value = w.value.clipboard.fetchAsked;
}
const type = () => inBackground('typing', tool.type(picture.view.value.display));
</script>

<template>
  <section class="clips" :aria-label="w.clipboard.title">
    <h2>{{ w.clipboard.title }}</h2>
    <h3>{{ w.clipboard.theirs }}</h3>
    <p v-if="!mayRead" class="quiet">{{ w.clipboard.mayNotRead }}</p>
    <p v-else-if="!offer" class="quiet" data-test="clip-nothing">{{ w.clipboard.nothingYet }}</p>
    <ul v-else>
      <li v-for="part in offer.parts" :key="part.kind" :data-test="`clip-${part.kind}`">
        {{ w.clipboard.part[part.kind]({ size: speech.bytes(part.sizeBytes) }) }}
        <NButton size="tiny" :disabled="!!moving" :data-test="`clip-take-${part.kind}`" @click="tool.read(part.kind)">{{
          w.clipboard.take
        }}</NButton>
      </li>
      <li v-for="file in offer.files" :key="file.path">
        <NButton size="tiny" :disabled="!session.may('fetch-files')" @click="fetchFile(file.path)">{{
          w.clipboard.fetch({ name: file.name, size: speech.bytes(file.sizeBytes) })
        }}</NButton>
      </li>
    </ul>
    <h3>{{ w.clipboard.mine }}</h3>
    <p v-if="!mayGive" class="quiet">{{ w.clipboard.mayNotGive }}</p>
    <template v-else>
      <p class="row">
        <NButton size="small" :disabled="!!moving" data-test="clip-put" @click="tool.putOwn()">{{
          w.clipboard.put({ computer: session.theirComputer.value })
        }}</NButton>
        <NButton size="small" :disabled="typed !== undefined" data-test="clip-type" @click="type">{{
          w.clipboard.type({ computer: session.theirComputer.value })
        }}</NButton>
      </p>
      <p class="quiet">{{ w.clipboard.putHint }}</p>
      <p class="quiet">{{ w.clipboard.typeHint }}</p>
    </template>
    <p v-if="word" role="status" data-test="clip-word">{{ word }}</p>
    <p v-if="files.trouble.value" role="alert">{{ files.trouble.value }}</p>
  </section>
</template>

<style scoped>
.clips {
  padding: 0.8rem;
}
h3 {
  margin: 0.8rem 0 0.3rem;
  font-size: 1rem;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.4rem;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
}
</style>
