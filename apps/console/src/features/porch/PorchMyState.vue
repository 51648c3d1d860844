<script setup lang="ts">
import type { PorchView } from '@porch/wire';
import { NButton } from 'naive-ui';
import { computed, ref } from 'vue';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { countDown, useNow } from '../../times.ts';

const props = defineProps<{ porch: PorchView; receivedAtMs: number }>();
const { rest } = useDesk();
const now = useNow();
const trouble = ref('');
const wrapUpMs = computed(() => {
  const { wrapUpMs: toldMs } = props.porch.me;
  return toldMs ? toldMs - (now.value - props.receivedAtMs) : 0;
});

async function set(isAway: boolean): Promise<void> {
  trouble.value = '';
  await rest.setMyState({ isAway }).catch((error: unknown) => (trouble.value = inWords(error)));
}
</script>

<template>
  <p class="mine" role="status" data-test="my-state">
    <span v-if="porch.me.isAway"><b>You are away.</b> Nobody is offered to you.</span>
    <span v-else-if="wrapUpMs > 0"
      ><b>Wrapping up</b>, <span class="tabular">{{ countDown(wrapUpMs) }}</span> left. Nobody is offered to you.</span
    >
    <span v-else
      ><b>You are here.</b> {{ porch.me.screens }} of {{ porch.me.limits.screens }} screens, {{ porch.me.chats }} of
      {{ porch.me.limits.chats }} chats open.</span
    >
    <NButton v-if="porch.me.isAway || wrapUpMs > 0" size="small" type="primary" data-test="here" @click="set(false)"
      >I am here</NButton
    >
    <NButton v-else size="small" data-test="away" @click="set(true)">I am away</NButton>
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
