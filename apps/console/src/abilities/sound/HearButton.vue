<script setup lang="ts">
import { NButton, NSlider } from 'naive-ui';
import type { ConsoleSession } from '../console-ability.ts';
import SoundLevel from '@porch/pages/SoundLevel.vue';
import { w } from '../../words/index.ts';
import { soundTool } from './tool.ts';

/* Hear their computer, or not: what is not wanted is not sent. */
const props = defineProps<{ session: ConsoleSession }>();
const tool = props.session.tool(soundTool);
const { isOn, peak, trouble, volume } = tool;
</script>

<template>
  <div class="hear">
    <NButton
      size="small"
      :type="isOn ? 'primary' : 'default'"
      :aria-pressed="isOn"
      data-test="hear"
      @click="tool.setOn(!isOn)"
      >{{ isOn ? w.sound.stop : w.sound.listen }}</NButton
    >
    <template v-if="isOn">
      <SoundLevel :peak="peak" />
      <NSlider
        :value="volume"
        :min="0"
        :max="1.5"
        :step="0.05"
        :tooltip="false"
        :aria-label="w.sound.volume"
        @update:value="(gain: number) => tool.setVolume(gain)"
      />
    </template>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
  </div>
</template>

<style scoped>
.hear {
  display: grid;
  gap: 0.3rem;
  max-width: 9rem;
}
p {
  margin: 0;
  font-size: 0.85rem;
}
</style>
