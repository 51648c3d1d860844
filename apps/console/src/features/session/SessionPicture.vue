<script setup lang="ts">
import { areWordsSame } from '@porch/core';
import { ALL_MONITORS, type PictureBounds } from '@porch/wire';
import { NButton, NCheckbox } from 'naive-ui';
import { actsFor, heldKeys } from './held-keys.ts';
import { zoomSteps, type StageScale } from './stage-geometry.ts';
import type { TechnicianSession } from './technician-session.ts';

const props = defineProps<{ session: TechnicianSession; display: number; scale: StageScale; isWorking: boolean }>();
const emit = defineEmits<{
  display: [display: number];
  scale: [scale: StageScale];
  window: [display: number];
  fullScreen: [];
}>();

const preferences: readonly { value: PictureBounds['preference']; label: string; hint: string }[] = [
  { value: 'automatic', label: 'Automatic', hint: 'sharp text at once, films as they come' },
  { value: 'text-first', label: 'Text first', hint: 'everything exact, however long it takes' },
  { value: 'movement-first', label: 'Movement first', hint: 'films smooth and coarser, text exact' },
  { value: 'least-data', label: 'Least data', hint: 'few pictures a second' },
];
const rates = [60, 30, 15, 5] as const;
const zoomLabel = (scale: StageScale) => (scale === 'fit' ? 'Fit' : scale === 1 ? 'Original' : `${scale * 100} %`);

function choose(change: Partial<PictureBounds>): void {
  const next = { ...props.session.bounds.value, ...change };
  if (change.preference === 'least-data') next.mostFramesPerSecond = Math.min(next.mostFramesPerSecond, 5);
  else if (change.preference && props.session.bounds.value.preference === 'least-data') next.mostFramesPerSecond = 60;
  props.session.setBounds(next);
}
function press(keys: readonly string[]): void {
  for (const act of actsFor(keys)) props.session.act(props.display, act);
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
        :type="scale === step ? 'primary' : 'default'"
        :aria-pressed="scale === step"
        @click="emit('scale', step)"
        >{{ zoomLabel(step) }}</NButton
      >
      <NButton size="tiny" @click="emit('fullScreen')">Full screen</NButton>
    </div>
    <p class="quiet">Full screen also takes the keys that a browser keeps for itself, where it can.</p>
    <template v-if="session.displays.value.length > 1">
      <h2>Monitors</h2>
      <ul>
        <li v-for="row in session.displays.value" :key="row.display">
          <NButton
            size="tiny"
            :type="display === row.display ? 'primary' : 'default'"
            :aria-pressed="display === row.display"
            data-test="monitor"
            @click="emit('display', row.display)"
            >{{ row.name }}, {{ row.width }}×{{ row.height }}</NButton
          >
          <NButton
            size="tiny"
            quaternary
            :aria-label="`${row.name} in a window of its own`"
            @click="emit('window', row.display)"
            >own window</NButton
          >
        </li>
        <li>
          <NButton
            size="tiny"
            :type="display === ALL_MONITORS ? 'primary' : 'default'"
            :aria-pressed="display === ALL_MONITORS"
            data-test="all-monitors"
            @click="emit('display', ALL_MONITORS)"
            >All together</NButton
          >
        </li>
      </ul>
    </template>
    <h2>Quality</h2>
    <div class="choices" role="radiogroup" aria-label="Quality">
      <label v-for="p in preferences" :key="p.value">
        <input
          type="radio"
          name="preference"
          :value="p.value"
          :checked="session.bounds.value.preference === p.value"
          @change="choose({ preference: p.value })"
        />
        {{ p.label }} <span class="quiet">{{ p.hint }}</span>
      </label>
    </div>
    <label class="rate"
      >At most
      <select
        :value="session.bounds.value.mostFramesPerSecond"
        @change="choose({ mostFramesPerSecond: Number(($event.target as HTMLSelectElement).value) })"
      >
        <option v-for="rate in rates" :key="rate" :value="rate">{{ rate }}</option>
      </select>
      pictures a second</label
    >
    <NCheckbox :checked="session.bounds.value.isGrey" @update:checked="(isGrey: boolean) => choose({ isGrey })"
      >Without colours</NCheckbox
    >
    <p v-if="session.isFromBrowser" class="quiet">
      Shown from a browser: colours come at half the resolution, and the wallpaper stays.
    </p>
    <NCheckbox
      v-else
      :checked="session.bounds.value.hidesWallpaper"
      @update:checked="(hidesWallpaper: boolean) => choose({ hidesWallpaper })"
      >Hide their wallpaper (they are told)</NCheckbox
    >
    <template v-if="isWorking">
      <h2>Keys a browser keeps</h2>
      <div class="row" role="group" aria-label="Keys a browser keeps">
        <NButton v-for="k in heldKeys" :key="k.label" size="tiny" @click="press(k.keys)">{{ k.label }}</NButton>
      </div>
    </template>
    <template v-if="session.words.value.length">
      <h2>Check words</h2>
      <p class="words" data-test="words">{{ session.words.value.join(' · ') }}</p>
      <p v-if="session.wordTries.value > 1" data-test="word-tries">
        These are set number {{ session.wordTries.value }} in this session. More than one means that a program at their
        side began anew, or was changed: compare again.
      </p>
      <p class="quiet">
        {{
          areWordsSame(session.state.value, session.connection.participantId)
            ? 'Compared: the same.'
            : 'Not compared. Until they are, who they are rests on the service.'
        }}
      </p>
      <NButton size="tiny" @click="session.checkWords.askCompare()">Ask them to compare</NButton>
    </template>
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
