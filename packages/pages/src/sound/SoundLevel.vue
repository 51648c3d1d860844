<script setup lang="ts">
import { computed } from 'vue';

/* How loud somebody is. What it means stands beside it in words. */
const props = defineProps<{ peak: number }>();
/** Ears count in steps of equal ratio: -50 dB is empty. */
const share = computed(() => (props.peak > 0 ? Math.max(0, Math.min(1, 1 + (20 * Math.log10(props.peak)) / 50)) : 0));
</script>

<template>
  <span class="level" aria-hidden="true" data-test="level" :data-share="share.toFixed(2)"
    ><span :style="{ width: `${Math.round(share * 100)}%` }"
  /></span>
</template>

<style scoped>
.level {
  display: block;
  height: 0.4rem;
  border-radius: 0.2rem;
  background: var(--line);
  overflow: hidden;
}
.level span {
  display: block;
  height: 100%;
  background: var(--accent);
}
</style>
