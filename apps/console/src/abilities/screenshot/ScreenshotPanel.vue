<script setup lang="ts">
import { type TakenScreenshot } from '@porch/client';
import type { KeptScreenshot } from '@porch/wire';
import { NButton } from 'naive-ui';
import { ref, shallowRef } from 'vue';
import { inWords, inWordsOr } from '../../in-words.ts';
import { clock } from '../../times.ts';
import type { ConsoleSession } from '../console-ability.ts';
import { writeHere } from '../clipboard/own-clipboard.ts';
import { blobSink } from '../files/blob-sink.ts';
import PictureEditor from '../../picture-editing/PictureEditor.vue';
import { pictureTool } from '../picture/tool.ts';
import { base64Of, imageOf } from './screenshot-canvas.ts';
import { screenshotTool } from './tool.ts';
import { w } from '../../words/index.ts';

/* Has a screenshot taken at the source; what is blanked and marked here is in it before it goes anywhere. */
const props = defineProps<{ session: ConsoleSession }>();
const { technician } = props.session.tool(screenshotTool);
const { view } = props.session.tool(pictureTool);
const taken = shallowRef<TakenScreenshot>();
const image = shallowRef<ImageData>();
const editor = ref<InstanceType<typeof PictureEditor>>();
const isBusy = ref(false);
const trouble = ref('');
const done = ref('');
const kept = shallowRef<readonly KeptScreenshot[]>([]);

async function attempt(work: () => Promise<string>): Promise<void> {
  trouble.value = '';
  done.value = '';
  isBusy.value = true;
  try {
    done.value = await work();
  } catch (error) {
    trouble.value = inWordsOr(error, w.value.screenshot.notDone);
  } finally {
    isBusy.value = false;
  }
}
props.session.rest.screenshots(props.session.id).then(
  (rows) => (kept.value = rows),
  (error: unknown) => (trouble.value = inWords(error)),
);

const take = () =>
  attempt(async () => {
    const one = await technician.take(view.value.display);
    taken.value = one;
    image.value = imageOf(one);
    return w.value.screenshot.isTaken;
  });
async function picture(): Promise<{ id: string; png: Uint8Array }> {
  if (!taken.value || !editor.value) throw new Error('nothing was taken');
  return { id: taken.value.id, png: await editor.value.bytes('image/png') };
}
async function toDownloads(id: string, png: Uint8Array): Promise<void> {
  const sink = blobSink(`screenshot-${id.slice(0, 8)}.png`);
  await sink.write(png);
  await sink.finish();
}
const copy = () =>
  attempt(async () => {
    const { id, png } = await picture();
    const isCopied = await writeHere('image', png);
    if (!isCopied) await toDownloads(id, png);
    await technician.tellKept(id, png);
    return isCopied ? w.value.screenshot.isCopied : w.value.clipboard.saved;
  });
const saveHere = () =>
  attempt(async () => {
    const { id, png } = await picture();
    await toDownloads(id, png);
    await technician.tellKept(id, png);
    return w.value.screenshot.isSaved;
  });
const keepWithSession = () =>
  attempt(async () => {
    const { id, png } = await picture();
    kept.value = await props.session.rest.keepScreenshot(props.session.id, { screenshotId: id, png: base64Of(png) });
    return w.value.screenshot.isKept;
  });
const give = () =>
  attempt(async () => {
    const { id, png } = await picture();
    await technician.give(id, png);
    return w.value.screenshot.isGiven;
  });
</script>

<template>
  <section class="screenshot" :aria-label="w.screenshot.title">
    <h2>{{ w.screenshot.title }}</h2>
    <p class="quiet">{{ w.screenshot.about }}</p>
    <NButton size="small" type="primary" :loading="isBusy && !taken" data-test="take-screenshot" @click="take">{{
      taken ? w.screenshot.takeAnother : w.screenshot.takeOne
    }}</NButton>
    <template v-if="taken && image">
      <PictureEditor
        ref="editor"
        :image="image"
        :seat="session.connection.seat"
        :label="w.screenshot.canvas({ width: `${taken.width}`, height: `${taken.height}` })"
      />
      <p class="row">
        <NButton size="small" :disabled="isBusy" data-test="screenshot-save" @click="saveHere">{{
          w.screenshot.saveHere
        }}</NButton>
        <NButton size="small" :disabled="isBusy" data-test="screenshot-copy" @click="copy">{{
          w.screenshot.copy
        }}</NButton>
        <NButton size="small" :disabled="isBusy" data-test="screenshot-keep" @click="keepWithSession">{{
          w.screenshot.keepWith
        }}</NButton>
        <NButton size="small" :disabled="isBusy" data-test="screenshot-give" @click="give">{{
          w.screenshot.give
        }}</NButton>
      </p>
    </template>
    <p v-if="done" role="status" data-test="screenshot-done">{{ done }}</p>
    <p v-if="trouble" role="alert" class="trouble">{{ trouble }}</p>
    <template v-if="kept.length">
      <h2>{{ w.screenshot.inRecords }}</h2>
      <ul>
        <li v-for="one in kept" :key="one.screenshotId">
          <a :href="`/api/v1/sessions/${session.id}/screenshots/${one.screenshotId}`" target="_blank" rel="noopener">{{
            w.screenshot.of({ time: clock(one.keptAtMs) })
          }}</a>
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
.screenshot {
  padding: 0.6rem;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem;
}
ul {
  margin: 0;
  padding-left: 1.2rem;
}
</style>
