<script setup lang="ts">
import { leaveStanding } from '@porch/client';
import { NButton, NInput } from 'naive-ui';
import { computed, ref } from 'vue';
import { useAttempt } from '../use-attempt.ts';
import { w } from '../words/index.ts';
import type { ConsoleSession } from './console-ability.ts';

/* A device whose label asks for care: the desk is asked first, and maybe somebody else of it. */
const props = defineProps<{
  session: ConsoleSession;
  actId: string;
  askLeave: (reason: string) => Promise<void>;
  /** What is said of it where no label is what asks for care. */
  about?: string | undefined;
}>();
const reason = ref('');
const { isBusy, trouble, attempt } = useAttempt();
const asked = computed(() => leaveStanding(props.session.state.value, props.actId));
const label = computed(() => props.session.state.value.deviceLabel ?? '');

const ask = () => attempt(() => props.askLeave(reason.value));
</script>

<template>
  <div data-test="leave">
    <p role="status">
      <template v-if="asked">{{ w.carefulActs.standing[asked] }}</template>
      <template v-else>{{ about ?? w.carefulActs.asksForCare({ label }) }}</template>
    </p>
    <template v-if="!asked">
      <NInput
        v-model:value="reason"
        size="small"
        :maxlength="200"
        :placeholder="w.carefulActs.why"
        :input-props="{ 'aria-label': w.carefulActs.why }"
        data-test="leave-reason"
      />
      <p>
        <NButton size="small" :disabled="isBusy" data-test="ask-leave" @click="ask">{{ w.carefulActs.ask }}</NButton>
      </p>
    </template>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
  </div>
</template>

<style scoped>
p {
  margin: 0.2rem 0;
}
</style>
