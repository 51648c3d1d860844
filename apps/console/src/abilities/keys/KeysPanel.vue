<script setup lang="ts">
import { NButton } from 'naive-ui';
import { ref } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import { inputTool } from '../input/tool.ts';
import { pictureTool } from '../picture/tool.ts';
import OwnKeys from './OwnKeys.vue';
import { actsFor, keyCap, specialKeys, specialKeySets, type SpecialKeySet } from './special-keys.ts';
import { w } from '../../words/index.ts';

/* Keys that no page ever gets, to be pressed there; and what one's own keys mean there. */
const props = defineProps<{ session: ConsoleSession }>();
const { view } = props.session.tool(pictureTool);
const { isWorking, act } = props.session.tool(inputTool);
const set = ref<SpecialKeySet>('linux');
const caps = (keys: readonly string[]) => keys.map((key) => keyCap(key, set.value, w.value.keys)).join(' + ');

function press(keys: readonly string[]): void {
  for (const one of actsFor(keys)) act(view.value.display, one);
}
</script>

<template>
  <section class="keys" :aria-label="w.keys.title">
    <h2>{{ w.keys.special }}</h2>
    <label
      ><span class="only-heard">{{ w.keys.whose }}</span>
      <select v-model="set" data-test="key-set">
        <option v-for="one in specialKeySets" :key="one" :value="one">{{ w.keys.sets[one] }}</option>
      </select></label
    >
    <div class="row" role="group" :aria-label="w.keys.special">
      <NButton
        v-for="keys in specialKeys[set]"
        :key="keys.join()"
        size="tiny"
        :disabled="!isWorking"
        @click="press(keys)"
        >{{ caps(keys) }}</NButton
      >
    </div>
    <p v-if="!isWorking" class="quiet">
      {{ w.keys.workFirst }}
    </p>
    <OwnKeys :preferences="session.preferences" />
  </section>
</template>

<style scoped>
.keys {
  display: flex;
  flex-direction: column;
  gap: 0.4rem;
  padding: 0.6rem 0.8rem;
}
h2 {
  margin: 0.3rem 0 0;
  font-size: 0.95rem;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 0.35rem;
}
p {
  margin: 0;
}
</style>
