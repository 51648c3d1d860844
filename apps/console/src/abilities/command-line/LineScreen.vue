<script setup lang="ts">
import { MAX_PASTE_CHARACTERS } from '@porch/wire';
import { NButton, NCheckbox, NInput } from 'naive-ui';
import { nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue';
import { reasonInWords, w } from '../../words/index.ts';
import type { ConsoleSession } from '../console-ability.ts';
import { commandLineTool } from './tool.ts';

/* What stands on a command line, with what is found, copied and made larger in it. */
const props = defineProps<{ session: ConsoleSession }>();
const { terminal, rests, panel } = props.session.tool(commandLineTool);
const place = ref<HTMLElement>();
const searchBox = ref<{ focus(): void }>();
const words = ref('');
const isReadAloud = ref(false);
const said = ref('');
let sizes: ResizeObserver | undefined;

const put = () => {
  if (place.value) terminal.value?.put(place.value);
  terminal.value?.setReadAloud(isReadAloud.value);
};
onMounted(() => {
  put();
  terminal.value?.focus();
  sizes = new ResizeObserver(() => terminal.value?.fit());
  if (place.value) sizes.observe(place.value);
  panel.tooMuch = () => (said.value = w.value.commandLine.tooMuch({ most: MAX_PASTE_CHARACTERS }));
  panel.find = () => searchBox.value?.focus();
  panel.isForPage = ({ key }) => key === props.session.preferences.now.value.leaderKey;
});
watch(terminal, () => nextTick(put));
onBeforeUnmount(() => sizes?.disconnect());

const find = (isBack: boolean) => {
  if (!words.value) return;
  said.value = terminal.value?.find(words.value, isBack) ? '' : w.value.commandLine.notFound;
};
const readAloud = (isOn: boolean) => {
  isReadAloud.value = isOn;
  terminal.value?.setReadAloud(isOn);
};
async function copy(): Promise<void> {
  const text = terminal.value?.selected ?? '';
  if (!text) {
    said.value = w.value.commandLine.nothingSelected;
    return;
  }
  try {
    await navigator.clipboard.writeText(text);
    said.value = w.value.commandLine.copied;
  } catch {
    said.value = w.value.commandLine.notCopied;
  }
}
</script>

<template>
  <div class="tools">
    <NInput
      ref="searchBox"
      v-model:value="words"
      size="tiny"
      class="search"
      clearable
      :placeholder="w.commandLine.find"
      :input-props="{ 'aria-label': w.commandLine.find, maxlength: 100 }"
      data-test="find-on-line"
      @keydown.enter.prevent="find($event.shiftKey)"
    />
    <NButton size="tiny" :disabled="!words" @click="find(true)">{{ w.commandLine.before }}</NButton>
    <NButton size="tiny" :disabled="!words" data-test="find-next" @click="find(false)">{{
      w.commandLine.next
    }}</NButton>
    <NButton size="tiny" data-test="copy-selected" @click="copy">{{ w.commandLine.copy }}</NButton>
    <NButton size="tiny" :aria-label="w.commandLine.smaller" @click="terminal?.zoom(-1)">A−</NButton>
    <NButton size="tiny" :aria-label="w.commandLine.larger" @click="terminal?.zoom(1)">A+</NButton>
    <NCheckbox size="small" :checked="isReadAloud" @update:checked="readAloud">{{ w.commandLine.readAloud }}</NCheckbox>
  </div>
  <div ref="place" class="place" data-test="line-screen" />
  <p role="status" class="quiet">
    <template v-if="rests">{{ w.commandLine.rests({ why: reasonInWords(rests) }) }}</template>
    <template v-else-if="said">{{ said }}</template>
    <template v-else>{{ w.commandLine.keys }}</template>
  </p>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem;
  align-items: center;
}
.search {
  width: 11rem;
}
.place {
  flex: 1 1 12rem;
  min-height: 12rem;
  overflow: hidden;
  background: #10262a;
  border-radius: 8px;
}
/* Room around the letters is the terminal's own: what fits is reckoned without it. */
.place :deep(.xterm) {
  height: 100%;
  padding: 0.4rem;
}
.place :deep(.xterm-viewport) {
  background-color: transparent;
}
p {
  margin: 0;
}
</style>
