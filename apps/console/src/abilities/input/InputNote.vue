<script setup lang="ts">
import { inBackground } from '@porch/client';
import { NButton } from 'naive-ui';
import { ref } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import { clipboardTool } from '../clipboard/tool.ts';
import StageNote from '../StageNote.vue';
import { inputTool } from './tool.ts';
import { w } from '../../words/index.ts';

/* Over the stage: what was typed while nothing arrived, which is asked about; and what is explained once. */
const props = defineProps<{ session: ConsoleSession }>();
const input = props.session.tool(inputTool);
const { missedText, word, mayWork } = input;
const isShown = ref(false);

function typeIt(): void {
  const text = missedText.value;
  input.forgetMissed();
  isShown.value = false;
  inBackground('typing', props.session.tool(clipboardTool).typing.type(input.workedDisplay, text));
}
function forget(): void {
  input.forgetMissed();
  isShown.value = false;
}
</script>

<template>
  <StageNote v-if="missedText" is-waiting data-test="missed">
    {{ w.keys.missed({ count: [...missedText].length }) }}
    <code v-if="isShown" data-test="missed-text">{{ missedText }}</code>
    <NButton v-if="!isShown" size="tiny" @click="isShown = true">{{ w.keys.showMissed }}</NButton>
    <NButton size="tiny" :disabled="!mayWork" data-test="type-missed" @click="typeIt">{{
      w.keys.typeMissed({ computer: session.theirComputer.value })
    }}</NButton>
    <NButton size="tiny" data-test="forget-missed" @click="forget">{{ w.keys.forgetMissed }}</NButton>
  </StageNote>
  <StageNote v-else-if="word" data-test="explained">
    {{ word === 'touch' ? w.keys.touchAbout[session.preferences.now.value.touch] : w.keys.keptBySystem }}
    <NButton size="tiny" @click="input.understood()">{{ w.keys.closeWord }}</NButton>
  </StageNote>
</template>

<style scoped>
code {
  display: block;
  max-height: 6rem;
  overflow: auto;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
button {
  margin-left: 0.4rem;
}
</style>
