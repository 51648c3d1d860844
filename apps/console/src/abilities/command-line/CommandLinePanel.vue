<script setup lang="ts">
import { leaveStanding } from '@porch/client';
import { MAX_LINE_FOLDER_CHARACTERS } from '@porch/core';
import { NButton, NInput } from 'naive-ui';
import { computed, ref, watch } from 'vue';
import { useAttempt } from '../../use-attempt.ts';
import { w } from '../../words/index.ts';
import CarefulLeave from '../CarefulLeave.vue';
import AskFirst from '../AskFirst.vue';
import type { ConsoleSession } from '../console-ability.ts';
import LineScreen from './LineScreen.vue';
import { commandLineTool } from './tool.ts';

/* A command line at their computer: opened in a folder, worked on, ended. */
const props = defineProps<{ session: ConsoleSession }>();
const { technician, now, over, careful, mayUse, ask, open, resume } = props.session.tool(commandLineTool);
const folder = ref('');
const { trouble, isBusy, attempt } = useAttempt((why) => w.value.commandLine.refusedThere(why));
const name = computed(() => w.value.commandLine.screen({ computer: props.session.theirComputer.value }));
// After a reload it may be a while until it is known what is open and allowed.
watch(
  () => props.session.told.value,
  () => resume(name.value),
  { immediate: true },
);

const begin = () => attempt(() => open(folder.value.trim(), name.value));
const askToUse = () => attempt(ask);
/** Where the device's label asks for care the desk has its say first. */
const lineId = computed(() => careful.value[folder.value.trim()]);
const isHeldBack = computed(
  () => lineId.value !== undefined && leaveStanding(props.session.state.value, lineId.value) !== 'cleared',
);
const askLeave = async (reason: string) => {
  if (lineId.value !== undefined)
    await technician.askLeave({ lineId: lineId.value, folder: folder.value.trim() }, reason);
};
const ended = computed(() => {
  if (!over.value) return '';
  const { how, code } = over.value;
  return how === 'left' && code
    ? w.value.commandLine.ended.code({ code: String(code) })
    : w.value.commandLine.ended[how];
});
</script>

<template>
  <section class="drawer-panel is-high" :aria-label="w.commandLine.title" data-test="command-line">
    <h1>{{ w.commandLine.title }}</h1>
    <template v-if="now">
      <p class="where">
        <span
          >{{ w.commandLine.where({ program: now.program, folder: now.folder }) }}
          <span v-if="now.mayGoOn" class="quiet">{{ w.commandLine.mayGoOn }}</span></span
        >
        <NButton size="small" data-test="end-line" @click="technician.shut()">{{ w.commandLine.end }}</NButton>
      </p>
      <LineScreen :session="session" />
    </template>
    <template v-else>
      <p v-if="over" role="status" data-test="line-ended">
        {{ ended }}<template v-if="over.mayGoOn"> {{ w.commandLine.wentOn }}</template>
      </p>
      <p class="quiet">{{ w.commandLine.about }}</p>
      <AskFirst
        v-if="!mayUse"
        :says="w.commandLine.mayNot"
        :ask="w.commandLine.ask"
        :is-busy="isBusy"
        data-test="ask-for-line"
        @asked="askToUse"
      />
      <form v-else class="open" @submit.prevent="begin">
        <NInput
          v-model:value="folder"
          size="small"
          :placeholder="w.commandLine.folder"
          :input-props="{
            'aria-label': w.commandLine.folder,
            maxlength: MAX_LINE_FOLDER_CHARACTERS,
            spellcheck: false,
          }"
          data-test="line-folder"
        />
        <CarefulLeave v-if="lineId" :key="lineId" :session="session" :act-id="lineId" :ask-leave="askLeave" />
        <NButton
          attr-type="submit"
          type="primary"
          size="small"
          :loading="isBusy"
          :disabled="isHeldBack"
          data-test="open-line"
          >{{ w.commandLine.open({ computer: session.theirComputer.value }) }}</NButton
        >
      </form>
    </template>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped>
.where {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem 0.8rem;
  align-items: center;
  justify-content: space-between;
}
.open {
  display: grid;
  gap: 0.4rem;
  justify-items: start;
}
</style>
