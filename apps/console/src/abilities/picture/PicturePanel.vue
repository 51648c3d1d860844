<script setup lang="ts">
import { inBackground } from '@porch/client';
import { Said } from '@porch/pages';
import { ALL_MONITORS, type PictureBounds } from '@porch/wire';
import { NButton, NCheckbox } from 'naive-ui';
import { ref } from 'vue';
import CheckWords from '../check-words/CheckWords.vue';
import type { ConsoleSession } from '../console-ability.ts';
import { zoomLabel } from './picture-words.ts';
import { boundedScale, zoomSteps } from './stage-geometry.ts';
import { pictureTool } from './tool.ts';
import { speech, w } from '../../words/index.ts';

const props = defineProps<{ session: ConsoleSession }>();
const { displays, bounds, view, lens, windows, setBounds, fullScreen } = props.session.tool(pictureTool);
const trouble = ref('');
const lenses = [1, 2, 3, 4] as const;

async function openWindow(display: number): Promise<void> {
  trouble.value = (await windows.show(display, () => import('./StageWindow.vue'))) ? '' : w.value.picture.noWindows;
}
function spread(times: number): void {
  const { scale } = view.value;
  view.value = { ...view.value, scale: boundedScale((scale === 'fit' ? 1 : scale) * times) };
}
const preferences = [
  'automatic',
  'text-first',
  'movement-first',
  'least-data',
] as const satisfies readonly PictureBounds['preference'][];
const rates = [60, 30, 15, 5] as const;

function choose(change: Partial<PictureBounds>): void {
  const next = { ...bounds.value, ...change };
  if (change.preference === 'least-data') next.mostFramesPerSecond = Math.min(next.mostFramesPerSecond, 5);
  else if (change.preference && bounds.value.preference === 'least-data') next.mostFramesPerSecond = 60;
  setBounds(next);
}
</script>

<template>
  <section class="picture" :aria-label="w.picture.title">
    <h2>{{ w.picture.size }}</h2>
    <div class="row" role="group" :aria-label="w.picture.size">
      <NButton
        v-for="step in zoomSteps"
        :key="step"
        size="tiny"
        :type="view.scale === step ? 'primary' : 'default'"
        :aria-pressed="view.scale === step"
        @click="view = { ...view, scale: step }"
        >{{ zoomLabel(step, w.picture, speech) }}</NButton
      >
      <NButton size="tiny" :aria-label="w.picture.larger" @click="spread(1.25)">+</NButton>
      <NButton size="tiny" :aria-label="w.picture.smaller" @click="spread(0.8)">−</NButton>
      <NButton size="tiny" @click="fullScreen">{{ w.picture.fullScreen }}</NButton>
      <NButton
        v-if="displays.length < 2"
        size="tiny"
        data-test="own-window"
        @click="inBackground('opening a window', openWindow(view.display))"
        >{{ w.picture.ownWindow }}</NButton
      >
    </div>
    <p class="quiet">{{ w.picture.fullScreenNote }} {{ w.picture.moveNote }}</p>
    <h2>{{ w.picture.lens }}</h2>
    <div class="row" role="group" :aria-label="w.picture.lens">
      <NButton
        v-for="times in lenses"
        :key="times"
        size="tiny"
        :type="lens === times ? 'primary' : 'default'"
        :aria-pressed="lens === times"
        :data-test="`lens-${times}`"
        @click="lens = times"
        >{{ times === 1 ? w.picture.noLens : w.picture.lensTimes({ times }) }}</NButton
      >
    </div>
    <template v-if="displays.length > 1">
      <h2>{{ w.picture.monitors }}</h2>
      <ul>
        <li v-for="row in displays" :key="row.display">
          <NButton
            size="tiny"
            :type="view.display === row.display ? 'primary' : 'default'"
            :aria-pressed="view.display === row.display"
            data-test="monitor"
            @click="view = { ...view, display: row.display }"
            >{{ w.picture.monitor({ name: row.name, width: `${row.width}`, height: `${row.height}` }) }}</NButton
          >
          <NButton
            size="tiny"
            quaternary
            :aria-label="w.picture.ownWindowOf({ name: row.name })"
            @click="inBackground('opening a window', openWindow(row.display))"
            >{{ w.picture.ownWindow }}</NButton
          >
        </li>
        <li>
          <NButton
            size="tiny"
            :type="view.display === ALL_MONITORS ? 'primary' : 'default'"
            :aria-pressed="view.display === ALL_MONITORS"
            data-test="all-monitors"
            @click="view = { ...view, display: ALL_MONITORS }"
            >{{ w.picture.allTogether }}</NButton
          >
        </li>
      </ul>
    </template>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
    <h2>{{ w.picture.quality }}</h2>
    <div class="choices" role="radiogroup" :aria-label="w.picture.quality">
      <label v-for="p in preferences" :key="p">
        <input
          type="radio"
          name="preference"
          :value="p"
          :checked="bounds.preference === p"
          @change="choose({ preference: p })"
        />
        <Said :of="w.picture.preferences[p]"
          ><template #hint="{ text }"
            ><span class="quiet">{{ text }}</span></template
          ></Said
        >
      </label>
    </div>
    <label class="rate"
      ><Said :of="w.picture.mostPictures({ rate: `${bounds.mostFramesPerSecond}` })"
        ><template #rate
          ><select
            :value="bounds.mostFramesPerSecond"
            @change="choose({ mostFramesPerSecond: Number(($event.target as HTMLSelectElement).value) })"
          >
            <option v-for="rate in rates" :key="rate" :value="rate">{{ rate }}</option>
          </select></template
        ></Said
      ></label
    >
    <NCheckbox :checked="bounds.isGrey" @update:checked="(isGrey: boolean) => choose({ isGrey })">{{
      w.picture.grey
    }}</NCheckbox>
    <p v-if="session.isFromBrowser" class="quiet">
      {{ w.picture.fromBrowser }}
    </p>
    <NCheckbox
      v-else
      :checked="bounds.hidesWallpaper"
      @update:checked="(hidesWallpaper: boolean) => choose({ hidesWallpaper })"
      >{{ w.picture.hideWallpaper }}</NCheckbox
    >
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
