<script setup lang="ts">
import { inBackground } from '@porch/client';
import {
  keyMeanings,
  leaderKeys,
  mappableKeys,
  type KeyMeaning,
  type LeaderKey,
  type MappableKey,
  type Preferences,
} from '@porch/core';
import { NButton, NCheckbox } from 'naive-ui';
import { computed } from 'vue';
import type { OwnPreferences } from '../../own-preferences.ts';
import { w } from '../../words/index.ts';

/* What a technician's own keys mean at the other computer: kept for the person, for each kind of keyboard. */
const props = defineProps<{ preferences: OwnPreferences }>();
const { now, trouble, system } = props.preferences;
const map = computed(() => props.preferences.keyMap());
const choose = (change: Partial<Preferences>) => inBackground('keeping a choice', props.preferences.choose(change));

const valueOf = (event: Event) => (event.target as HTMLSelectElement).value;
const nameOf = (key: MappableKey | KeyMeaning) => (key === 'nothing' ? w.value.keys.nothing : w.value.keys.names[key]);
const ownName = (key: MappableKey) => (system === 'apple' ? w.value.keys.appleNames[key] : w.value.keys.names[key]);

function mean(key: MappableKey, meaning: KeyMeaning): void {
  const changed = { ...map.value, [key]: meaning };
  choose({ keyMaps: { ...now.value.keyMaps, [system]: changed } });
}
/** Every key is itself again, as it is for whoever never chose. */
function asAtFirst(): void {
  const { [system]: _, ...others } = now.value.keyMaps;
  choose({ keyMaps: others });
}
/** What a key is without a choice of its own: its letters arrive large where the lock makes them so. */
const itself = (key: MappableKey): KeyMeaning => (key === 'CapsLock' ? 'nothing' : key);
</script>

<template>
  <div class="own">
    <h2>{{ w.keys.ownTitle }}</h2>
    <p class="quiet">{{ w.keys.ownAbout({ system: w.keys.sets[system] }) }}</p>
    <label v-for="key in mappableKeys" :key="key"
      ><span>{{ w.keys.myKey({ key: ownName(key) }) }}</span>
      <select
        :value="map[key] ?? itself(key)"
        :data-test="`own-${key}`"
        @change="mean(key, valueOf($event) as KeyMeaning)"
      >
        <option v-for="meaning in keyMeanings" :key="meaning" :value="meaning">{{ nameOf(meaning) }}</option>
      </select></label
    >
    <label
      ><span>{{ w.keys.leader }}</span>
      <select
        :value="now.leaderKey"
        data-test="leader-key"
        @change="choose({ leaderKey: valueOf($event) as LeaderKey })"
      >
        <option v-for="key in leaderKeys" :key="key" :value="key">{{ key === 'none' ? w.keys.noLeader : key }}</option>
      </select></label
    >
    <p class="quiet">{{ w.keys.leaderAbout }}</p>
    <NCheckbox
      :checked="now.isWheelReversed"
      @update:checked="(isWheelReversed: boolean) => choose({ isWheelReversed })"
      >{{ w.keys.wheelReversed }}</NCheckbox
    >
    <label
      ><span>{{ w.keys.touch }}</span>
      <select
        :value="now.touch"
        data-test="touch-way"
        @change="choose({ touch: valueOf($event) as Preferences['touch'] })"
      >
        <option value="finger">{{ w.keys.touchWays.finger }}</option>
        <option value="pointer">{{ w.keys.touchWays.pointer }}</option>
      </select></label
    >
    <div>
      <NButton size="tiny" @click="asAtFirst">{{ w.keys.asAtFirst }}</NButton>
    </div>
    <p v-if="trouble" role="alert" class="trouble">{{ trouble }}</p>
  </div>
</template>

<style scoped>
.own {
  display: flex;
  flex-direction: column;
  gap: 0.35rem;
}
h2 {
  margin: 0.3rem 0 0;
  font-size: 0.95rem;
}
label {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 0.5rem;
}
select {
  max-width: 9.5rem;
}
p {
  margin: 0;
}
</style>
