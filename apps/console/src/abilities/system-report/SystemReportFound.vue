<script setup lang="ts">
import { differenceInWords, signInWords } from '@porch/client';
import { isFault } from '@porch/core';
import { NButton } from 'naive-ui';
import { computed } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import { speech, w } from '../../words/index.ts';
import { systemReportTool } from './tool.ts';

/* What stands out of a report, before anybody reads it whole: what is wrong, and what is other than it was. */
const props = defineProps<{ session: ConsoleSession }>();
const emit = defineEmits<{ whole: [] }>();
const { health, differences, earlier, isReading, comeCount, allCount, trouble } = props.session.tool(systemReportTool);
/** What is said below, as other than before, is said once. */
const saidBelow = computed(
  () => new Set(differences.value.flatMap((one) => (one.what === 'program' ? [one.change.name] : []))),
);
const signs = computed(() =>
  health.value
    .filter((one) => one.sign !== 'changed-lately' || !saidBelow.value.has(one.name))
    .map((sign) => ({ isFault: isFault(sign), text: signInWords(sign, w.value.systemReport, speech.value) })),
);
const others = computed(() =>
  differences.value.map((one) => differenceInWords(one, w.value.systemReport, speech.value)),
);
const when = computed(() => (earlier.value ? speech.value.exactlyHere(earlier.value.takenAtMs) : ''));
</script>

<template>
  <section class="found" :aria-label="w.systemReport.computer" data-test="report-found">
    <h2>{{ w.systemReport.computer }}</h2>
    <p v-if="isReading" class="quiet" role="status">
      {{ w.systemReport.reading({ come: `${comeCount}`, all: `${allCount}` }) }}
    </p>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
    <p v-if="!signs.length && !isReading">{{ w.systemReport.healthy }}</p>
    <ul v-else class="signs">
      <li v-for="one in signs" :key="one.text" :class="{ fault: one.isFault }">
        <span aria-hidden="true">{{ one.isFault ? '▲' : '•' }}</span> {{ one.text }}
      </li>
    </ul>
    <template v-if="earlier">
      <p class="quiet">{{ w.systemReport[others.length ? 'since' : 'nothingOther']({ when }) }}</p>
      <ul v-if="others.length" class="signs" data-test="differences">
        <li v-for="one in others" :key="one">{{ one }}</li>
      </ul>
    </template>
    <p v-else-if="!isReading" class="quiet">{{ w.systemReport.noEarlier }}</p>
    <slot
      ><NButton size="small" data-test="whole-report" @click="emit('whole')">{{ w.systemReport.whole }}</NButton></slot
    >
  </section>
</template>

<style scoped>
.found {
  margin-bottom: 0.8rem;
}
h2 {
  font-size: 1rem;
}
p {
  margin: 0.2rem 0;
}
.signs {
  list-style: none;
  margin: 0.2rem 0;
  padding: 0;
}
.fault {
  color: var(--red);
  font-weight: 700;
}
</style>
