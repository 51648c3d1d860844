<script setup lang="ts">
import { ALL_MONITORS, type PictureBounds } from '@porch/wire';
import { NButton, NCheckbox } from 'naive-ui';
import { ref } from 'vue';
import CheckWords from '../check-words/CheckWords.vue';
import type { ConsoleSession } from '../console-ability.ts';
import { actsFor, heldKeys } from '../input/held-keys.ts';
import { inputTool } from '../input/tool.ts';
import { zoomSteps, type StageScale } from './stage-geometry.ts';
import { openStageWindow } from './stage-window.ts';
import { pictureTool } from './tool.ts';

const props = defineProps<{ session: ConsoleSession }>();
const { displays, bounds, view, setBounds, fullScreen } = props.session.tool(pictureTool);
const { isWorking, act } = props.session.tool(inputTool);
const trouble = ref('');

function openWindow(display: number): void {
  const row = displays.value.find((r) => r.display === display);
  if (!openStageWindow(props.session, display, row?.name ?? 'Screen'))
    trouble.value = 'Your browser does not open windows for this page; allow them and try again.';
}
const preferences: readonly { value: PictureBounds['preference']; label: string; hint: string }[] = [
  { value: 'automatic', label: 'Automatic', hint: 'sharp text at once, films as they come' },
  { value: 'text-first', label: 'Text first', hint: 'everything exact, however long it takes' },
  { value: 'movement-first', label: 'Movement first', hint: 'films smooth and coarser, text exact' },
  { value: 'least-data', label: 'Least data', hint: 'few pictures a second' },
];
const rates = [60, 30, 15, 5] as const;
const zoomLabel = (scale: StageScale) => (scale === 'fit' ? 'Fit' : scale === 1 ? 'Original' : `${scale * 100} %`);

function choose(change: Partial<PictureBounds>): void {
  const next = { ...bounds.value, ...change };
  if (change.preference === 'least-data') next.mostFramesPerSecond = Math.min(next.mostFramesPerSecond, 5);
  else if (change.preference && bounds.value.preference === 'least-data') next.mostFramesPerSecond = 60;
  setBounds(next);
}
function press(keys: readonly string[]): void {
  for (const one of actsFor(keys)) act(view.value.display, one);
}
</script>

<template>
  <section class="picture" aria-label="The picture">
    <h2>Size</h2>
    <div class="row" role="group" aria-label="Size">
      <NButton
        v-for="step in zoomSteps"
        :key="step"
        size="tiny"
        :type="view.scale === step ? 'primary' : 'default'"
        :aria-pressed="view.scale === step"
        @click="view = { ...view, scale: step }"
        >{{ zoomLabel(step) }}</NButton
      >
      <NButton size="tiny" @click="fullScreen">Full screen</NButton>
    </div>
    <p class="quiet">Full screen also takes the keys that a browser keeps for itself, where it can.</p>
    <template v-if="displays.length > 1">
      <h2>Monitors</h2>
      <ul>
        <li v-for="row in displays" :key="row.display">
          <NButton
            size="tiny"
            :type="view.display === row.display ? 'primary' : 'default'"
            :aria-pressed="view.display === row.display"
            data-test="monitor"
            @click="view = { ...view, display: row.display }"
            >{{ row.name }}, {{ row.width }}×{{ row.height }}</NButton
          >
          <NButton
            size="tiny"
            quaternary
            :aria-label="`${row.name} in a window of its own`"
            @click="openWindow(row.display)"
            >own window</NButton
          >
        </li>
        <li>
          <NButton
            size="tiny"
            :type="view.display === ALL_MONITORS ? 'primary' : 'default'"
            :aria-pressed="view.display === ALL_MONITORS"
            data-test="all-monitors"
            @click="view = { ...view, display: ALL_MONITORS }"
            >All together</NButton
          >
        </li>
      </ul>
    </template>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
    <h2>Quality</h2>
    <div class="choices" role="radiogroup" aria-label="Quality">
      <label v-for="p in preferences" :key="p.value">
        <input
          type="radio"
          name="preference"
          :value="p.value"
          :checked="bounds.preference === p.value"
          @change="choose({ preference: p.value })"
        />
        {{ p.label }} <span class="quiet">{{ p.hint }}</span>
      </label>
    </div>
    <label class="rate"
      >At most
      <select
        :value="bounds.mostFramesPerSecond"
        @change="choose({ mostFramesPerSecond: Number(($event.target as HTMLSelectElement).value) })"
      >
        <option v-for="rate in rates" :key="rate" :value="rate">{{ rate }}</option>
      </select>
      pictures a second</label
    >
    <NCheckbox :checked="bounds.isGrey" @update:checked="(isGrey: boolean) => choose({ isGrey })"
      >Without colours</NCheckbox
    >
    <p v-if="session.isFromBrowser" class="quiet">
      Shown from a browser: colours come at half the resolution, and the wallpaper stays.
    </p>
    <NCheckbox
      v-else
      :checked="bounds.hidesWallpaper"
      @update:checked="(hidesWallpaper: boolean) => choose({ hidesWallpaper })"
      >Hide their wallpaper (they are told)</NCheckbox
    >
    <template v-if="isWorking">
      <h2>Keys a browser keeps</h2>
      <div class="row" role="group" aria-label="Keys a browser keeps">
        <NButton v-for="k in heldKeys" :key="k.label" size="tiny" @click="press(k.keys)">{{ k.label }}</NButton>
      </div>
    </template>
    <CheckWords :session="session" />
  </section>
</template>

<style scoped>
.picture {
  display: flex;
  flex-direction: column;
  gap: 0.4rem;
  padding: 0.6rem 0.8rem;
}
h2 {
  margin: 0.5rem 0 0;
  font-size: 0.95rem;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 0.35rem;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
  display: grid;
  gap: 0.3rem;
}
.choices {
  display: grid;
  gap: 0.25rem;
}
.words {
  margin: 0;
  font-weight: 700;
}
p {
  margin: 0;
}
</style>
