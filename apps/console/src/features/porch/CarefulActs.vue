<script setup lang="ts">
import { riskyActInWords } from '@porch/core';
import type { CarefulActView } from '@porch/wire';
import { NButton } from 'naive-ui';
import { useDesk } from '../../desk.ts';
import { ago, exactly, useNow } from '../../times.ts';
import { useAttempt } from '../../use-attempt.ts';
import { ledger, w } from '../../words/index.ts';

/* What somebody else is about to do on a device that asks for care, and waits for a yes; and what a lead is to look at. */
defineProps<{ acts: readonly CarefulActView[] }>();
const { rest } = useDesk();
const now = useNow();
const { trouble, attempt } = useAttempt();
const answer = ({ sessionId, actId }: CarefulActView, isYes: boolean) =>
  attempt(async () => void (await rest.giveSecondYes(sessionId, actId, isYes)));
/** Some acts need a second yes on whatever device. */
const headOf = ({ kind, askedByName: who, deviceLabel: label }: CarefulActView): string => {
  if (kind === 'override') return w.value.carefulActs.wasOutside({ who, label });
  return label ? w.value.carefulActs.asksForYes({ who, label }) : w.value.carefulActs.asksForYesToIt({ who });
};
const lookedAt = ({ sessionId, actId }: CarefulActView) =>
  attempt(async () => void (await rest.lookAtOverride(sessionId, actId)));
</script>

<template>
  <section v-if="acts.length || trouble" :aria-label="w.carefulActs.title">
    <div
      v-for="act in acts"
      :key="`${act.actId} ${act.kind}`"
      class="card waits"
      role="group"
      :aria-label="riskyActInWords(act.act, act.name, ledger)"
      :data-test="`careful-${act.kind}`"
    >
      <h2>
        {{ headOf(act) }}
      </h2>
      <p>
        <b>{{ riskyActInWords(act.act, act.name, ledger) }}</b><template v-if="act.customerName">
          · {{ act.customerName }}</template
        >
        <span class="quiet" :title="exactly(act.askedAtMs)"> · {{ ago(act.askedAtMs, now) }}</span>
      </p>
      <p v-if="act.reason">{{ w.carefulActs.reason({ reason: act.reason }) }}</p>
      <p class="row">
        <template v-if="act.kind === 'second-yes'">
          <NButton data-test="second-yes" @click="answer(act, true)">{{ w.carefulActs.yes }}</NButton>
          <NButton data-test="second-no" @click="answer(act, false)">{{ w.carefulActs.no }}</NButton>
        </template>
        <NButton v-else data-test="looked-at" @click="lookedAt(act)">{{ w.carefulActs.lookedAt }}</NButton>
      </p>
    </div>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped>
h2 {
  font-size: 1rem;
}
p {
  margin: 0.2rem 0;
}
.row {
  display: flex;
  gap: 0.4rem;
}
</style>
