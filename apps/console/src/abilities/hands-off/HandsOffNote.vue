<script setup lang="ts">
import { inBackground, restingPermissions } from '@porch/client';
import { restingBy } from '@porch/core';
import { NButton } from 'naive-ui';
import { computed } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleSession } from '../console-ability.ts';
import { handsOffTool } from './tool.ts';

/* As long as something of theirs rests it is said here, with the time that is left and the way to give it back. */
const props = defineProps<{ session: ConsoleSession }>();
const tool = props.session.tool(handsOffTool);
const now = computed(() =>
  restingPermissions.flatMap((permission) => {
    const left = tool.leftOf(permission);
    return left === undefined ? [] : [{ permission, what: restingBy[permission], left }];
  }),
);
</script>

<template>
  <p v-if="now.length" class="resting" role="status" data-test="hands-off-note">
    <span v-for="one in now" :key="one.permission" class="one">
      {{ w.handsOff.resting[one.what] }}
      <b class="tabular" aria-live="off">{{ w.handsOff.left({ clock: one.left }) }}</b>
      <NButton
        size="tiny"
        :data-test="`give-back-${one.permission}`"
        @click="inBackground('giving back', session.giveBack(one.permission))"
        >{{ w.handsOff.giveBack }}</NButton
      >
    </span>
  </p>
</template>

<style scoped>
.resting {
  position: absolute;
  inset: auto 0.6rem 2.9rem;
  display: grid;
  gap: 0.3rem;
  justify-items: center;
  margin: 0;
  padding: 0.4rem 0.8rem;
  border: 2px solid var(--accent);
  border-radius: 8px;
  background: var(--card);
}
.one {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: center;
  gap: 0.3rem 0.6rem;
}
</style>
