<script setup lang="ts">
import { Said } from '@porch/pages';
import type { PorchView } from '@porch/wire';
import { NButton } from 'naive-ui';
import { computed, ref } from 'vue';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { countDown, useNow } from '../../times.ts';
import { w } from '../../words/index.ts';

const props = defineProps<{ porch: PorchView; receivedAtMs: number }>();
const { rest } = useDesk();
const now = useNow();
const trouble = ref('');
const wrapUpMs = computed(() => {
  const { wrapUpMs: toldMs } = props.porch.me;
  return toldMs ? toldMs - (now.value - props.receivedAtMs) : 0;
});

const sentence = computed(() => {
  const { porch: said } = w.value;
  const { isAway, screens, chats, limits } = props.porch.me;
  if (isAway) return said.isAway;
  if (wrapUpMs.value > 0) return said.wrapsUp({ time: countDown(wrapUpMs.value) });
  return said.isHere({ screens, mostScreens: limits.screens, chats, mostChats: limits.chats });
});

async function set(isAway: boolean): Promise<void> {
  trouble.value = '';
  await rest.setMyState({ isAway }).catch((error: unknown) => (trouble.value = inWords(error)));
}
</script>

<template>
  <p class="mine" role="status" data-test="my-state">
    <span>
      <Said :of="sentence">
        <template #b="{ text }"
          ><b>{{ text }}</b></template
        >
        <template #time="{ text }"
          ><span class="tabular">{{ text }}</span></template
        >
      </Said>
    </span>
    <NButton v-if="porch.me.isAway || wrapUpMs > 0" size="small" type="primary" data-test="here" @click="set(false)">{{
      w.porch.iAmHere
    }}</NButton>
    <NButton v-else size="small" data-test="away" @click="set(true)">{{ w.porch.iAmAway }}</NButton>
    <span v-if="trouble" role="alert">{{ trouble }}</span>
  </p>
</template>

<style scoped>
.mine {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.4rem 0.8rem;
  margin: 0;
}
</style>
