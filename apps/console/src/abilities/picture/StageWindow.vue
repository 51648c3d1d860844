<script setup lang="ts">
import { isOver } from '@porch/core';
import { NButton } from 'naive-ui';
import { computed, onMounted, shallowRef, watch, watchEffect } from 'vue';
import ThemedRoot from '../../ThemedRoot.vue';
import { inputTool } from '../input/tool.ts';
import type { ConsoleSession } from '../console-ability.ts';
import { zoomLabel } from './picture-words.ts';
import PictureView from './PictureView.vue';
import { zoomSteps, type StageScale } from './stage-geometry.ts';
import { pictureTool } from './tool.ts';
import { speech, w } from '../../words/index.ts';

/* A display in a window of its own: whose it is stands at the top, since there may be several. */
const props = defineProps<{ session: ConsoleSession; display: number; own: Window }>();
const picture = props.session.tool(pictureTool);
const { isWorking, mayWork, toggle, toggleLabel } = props.session.tool(inputTool);
const scale = shallowRef<StageScale>('fit');
const who = computed(() => props.session.state.value.customerName ?? w.value.session.title);
const screen = computed(
  () => picture.displays.value.find((row) => row.display === props.display)?.name ?? w.value.picture.screen,
);
const title = computed(() => w.value.picture.windowTitle({ who: who.value, screen: screen.value }));
const ownDocument = props.own.document;
watchEffect(() => (ownDocument.title = title.value));
// Nothing of a session that is over stays on a screen.
watch(
  () => isOver(props.session.state.value),
  (over) => {
    if (over) picture.windows.close(props.display);
  },
);
onMounted(() => props.own.focus());
const scaleOf = (value: string): StageScale => (value === 'fit' ? 'fit' : Number(value));
</script>

<template>
  <ThemedRoot>
    <main class="own-window" :aria-label="title">
      <header>
        <h1>{{ title }}</h1>
        <span class="grow" />
        <NButton v-if="mayWork" size="tiny" :type="isWorking ? 'default' : 'primary'" @click="toggle">{{
          toggleLabel
        }}</NButton>
        <label
          ><span class="only-heard">{{ w.picture.size }}</span>
          <select :value="`${scale}`" @change="scale = scaleOf(($event.target as HTMLSelectElement).value)">
            <option v-for="step in zoomSteps" :key="step" :value="`${step}`">
              {{ zoomLabel(step, w.picture, speech) }}
            </option>
            <option v-if="!zoomSteps.includes(scale)" :value="`${scale}`">
              {{ zoomLabel(scale, w.picture, speech) }}
            </option>
          </select></label
        >
        <NButton size="tiny" @click="own.close()">{{ w.picture.backToPage }}</NButton>
      </header>
      <div class="stage">
        <PictureView
          v-if="picture.mayLook.value"
          :session="session"
          :display="display"
          :scale="scale"
          is-own-window
          @scale="scale = $event"
        />
        <p v-else role="status">{{ w.picture.nothingToSee }}</p>
        <component :is="note" v-for="(note, i) in session.notes" :key="i" :session="session" />
      </div>
    </main>
  </ThemedRoot>
</template>

<style scoped>
.own-window {
  display: flex;
  flex-direction: column;
  height: 100vh;
}
header {
  display: flex;
  align-items: center;
  gap: 0.5rem;
  padding: 0.15rem 0.6rem;
}
h1 {
  margin: 0;
  font-size: 0.95rem;
}
.grow {
  flex: 1;
}
select {
  padding: 0.05rem 0.3rem;
}
.stage {
  position: relative;
  flex: 1;
  min-height: 0;
  display: grid;
}
.stage > p {
  place-self: center;
}
</style>
