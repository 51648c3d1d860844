<script setup lang="ts">
import { inBackground } from '@porch/client';
import { firstName, participantAt } from '@porch/core';
import { NButton } from 'naive-ui';
import { computed } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import SoundLevel from '@porch/pages/SoundLevel.vue';
import { w } from '../../words/index.ts';
import { speakingTool } from './tool.ts';

/* My microphone, by one press or as long as a key is held; who else is heard, and how loud. */
const props = defineProps<{ session: ConsoleSession }>();
const tool = props.session.tool(speakingTool);
const { now, trouble } = tool;
const label = computed(() => {
  const { open, mute, unmute } = w.value.speaking;
  const { microphone } = now.value;
  return microphone === 'open' ? mute : microphone === 'muted' ? unmute : open;
});
const nameOf = (seat: number) => {
  const who = participantAt(props.session.state.value, seat);
  const name = who?.side === 'desk' ? who.name : props.session.state.value.customerName;
  return name ? firstName(name) : w.value.speaking.customer;
};
let isHeld = false;
function hold(isOn: boolean): void {
  if (isHeld === isOn) return;
  isHeld = isOn;
  inBackground('holding to talk', tool.hold(isOn));
}
const isTalkKey = ({ key, repeat }: KeyboardEvent) => (key === ' ' || key === 'Enter') && !repeat;
function keyDown(event: KeyboardEvent): void {
  if (!isTalkKey(event)) return;
  event.preventDefault();
  hold(true);
}
</script>

<template>
  <div class="speak">
    <NButton
      size="small"
      :type="now.microphone === 'open' ? 'primary' : 'default'"
      :aria-pressed="now.microphone === 'open'"
      data-test="speak"
      @click="tool.press()"
      >{{ label }}</NButton
    >
    <SoundLevel v-if="now.microphone === 'open'" :peak="now.ownPeak" />
    <NButton
      v-if="now.microphone"
      size="small"
      data-test="hold-to-talk"
      @pointerdown="hold(true)"
      @pointerup="hold(false)"
      @pointerleave="hold(false)"
      @pointercancel="hold(false)"
      @blur="hold(false)"
      @keydown="keyDown"
      @keyup="isTalkKey($event) && hold(false)"
      >{{ w.speaking.hold }}</NButton
    >
    <NButton size="small" :aria-pressed="now.isHushed" data-test="hush" @click="tool.setHushed(!now.isHushed)">{{
      now.isHushed ? w.speaking.unhush : w.speaking.hush
    }}</NButton>
    <ul>
      <li v-for="one in now.others" :key="one.seat" :data-test="`voice-${one.microphone}`">
        {{ w.speaking.is[one.microphone]({ who: nameOf(one.seat) }) }}
        <SoundLevel v-if="one.microphone === 'open'" :peak="one.peak" />
      </li>
    </ul>
    <p v-if="now.microphone === 'none'" role="alert">{{ w.speaking.without }}</p>
    <p v-else-if="trouble" role="alert">{{ trouble }}</p>
  </div>
</template>

<style scoped>
.speak {
  display: grid;
  gap: 0.3rem;
  max-width: 9rem;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 0.85rem;
}
p {
  margin: 0;
  font-size: 0.85rem;
}
</style>
