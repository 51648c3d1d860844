<script setup lang="ts">
import { NButton } from 'naive-ui';
import { computed, ref } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import { inputTool } from '../input/tool.ts';
import { inWords } from '../../in-words.ts';
import { oldSeconds } from './picture-words.ts';
import { pictureTool } from './tool.ts';
import { reasonInWords, speech, w } from '../../words/index.ts';

/* What is said at the foot of the stage: why what was done there did not happen, and what to do about it. */
const props = defineProps<{ session: ConsoleSession }>();
const { now } = props.session.tool(pictureTool);
const { state: lease, isWorking, dropped, mayWork, askToWork } = props.session.tool(inputTool);
const old = computed(() => {
  const seconds = oldSeconds(now.value?.ageMs);
  return seconds === undefined ? '' : w.value.picture.old({ seconds });
});
const offersWork = ref(false);
const trouble = ref('');
function ask(): void {
  trouble.value = '';
  askToWork().catch((error: unknown) => (trouble.value = inWords(error)));
}
defineExpose({ offerWork: () => (offersWork.value = true) });
</script>

<template>
  <p v-if="old" class="word" role="status" data-test="old">{{ old }}</p>
  <p v-else-if="lease.name === 'paused'" class="word" role="status">
    {{ w.picture.paused({ why: speech.capital(reasonInWords(lease.why)) }) }}
  </p>
  <p v-else-if="isWorking && dropped" class="word" role="status" data-test="dropped">
    {{ w.picture.notDone({ why: reasonInWords(dropped) }) }}
  </p>
  <p v-else-if="trouble" class="word" role="alert">{{ trouble }}</p>
  <p v-else-if="offersWork && !mayWork" class="word" role="status">
    {{ w.picture.onlySee }}
    <NButton size="tiny" type="primary" @click="ask">{{ w.picture.askToWork }}</NButton>
  </p>
</template>

<style scoped>
.word {
  position: absolute;
  bottom: 0.6rem;
  margin: 0;
  padding: 0.3rem 0.8rem;
  background: #faf6ec;
  color: #1d2b2c;
  border-radius: 8px;
}
</style>
