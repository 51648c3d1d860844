<script setup lang="ts">
import type { RunNow } from '@porch/client';
import { NButton } from 'naive-ui';
import { computed, ref, watch } from 'vue';
import { useNow } from '../../times.ts';
import { reasonInWords, w } from '../../words/index.ts';
import { saveAs } from '../files/save.ts';

/* What a run prints, as it comes, and how it ended. Its text stands there and does nothing. */
const props = defineProps<{ name: string; now: RunNow; begunAtMs: number; expectedSeconds: number }>();
const emit = defineEmits<{ stop: [] }>();
/** More than this nobody reads in a panel: the rest is in the file. */
const MOST_SHOWN = 60_000;
const box = ref<HTMLElement>();
const shown = computed(() => props.now.text.slice(-MOST_SHOWN));
const standing = computed(() => {
  const { runbook } = w.value;
  const { ended, refused } = props.now;
  if (refused !== undefined) return runbook.refusedThere({ why: reasonInWords(refused) });
  if (!ended) return runbook.running;
  const hasCode = ended.outcome === 'failed' && ended.code !== undefined;
  return hasCode ? runbook.ended.code({ code: String(ended.code) }) : runbook.ended[ended.outcome];
});
const clock = useNow();
const isRunning = computed(() => !props.now.ended && props.now.refused === undefined);
const seconds = computed(() => Math.max(0, Math.round((clock.value - props.begunAtMs) / 1_000)));
const save = () => saveAs(`${props.name}.txt`, new Blob([props.now.text], { type: 'text/plain' }));
/** Whoever reads the end goes on reading it. */
let isAtEnd = true;
watch(shown, () => {
  const { scrollHeight = 0, scrollTop = 0, clientHeight = 0 } = box.value ?? {};
  isAtEnd = scrollHeight - scrollTop - clientHeight < 40;
});
watch(shown, () => isAtEnd && box.value?.scrollTo({ top: box.value.scrollHeight }), { flush: 'post' });
</script>

<template>
  <p role="status" data-test="run-standing">
    <b>{{ standing }}</b> <template v-if="now.ended?.mayGoOn">{{ w.runbook.wentOn }}</template>
  </p>
  <p v-if="isRunning" class="acts">
    <progress :value="Math.min(seconds, expectedSeconds)" :max="expectedSeconds" :aria-label="w.runbook.running" />
    <span class="quiet">{{ w.runbook.so({ seconds, expected: w.runbook.seconds({ count: expectedSeconds }) }) }}</span>
  </p>
  <pre ref="box" tabindex="0" role="region" :aria-label="w.runbook.printed" data-test="printed">{{
    shown || w.runbook.nothingPrinted
  }}</pre>
  <p v-if="now.isCut" class="quiet">{{ w.runbook.cut }}</p>
  <p class="acts">
    <NButton v-if="isRunning" size="small" data-test="stop-action" @click="emit('stop')">{{ w.runbook.stop }}</NButton>
    <NButton v-if="now.text" size="small" data-test="save-output" @click="save">{{ w.runbook.saveOutput }}</NButton>
  </p>
</template>

<style scoped>
p {
  margin: 0.2rem 0;
}
pre {
  max-height: 18rem;
  min-height: 4rem;
  overflow: auto;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  font-size: 0.8rem;
  padding: 0.4rem;
  margin: 0.2rem 0;
  border: 1px solid var(--line);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
}
</style>
