<script setup lang="ts">
import { NButton } from 'naive-ui';

/* What they have not allowed yet, and the press that asks them for it. */
defineOptions({ inheritAttrs: false });
defineProps<{ says: string; ask: string; isBusy: boolean }>();
defineEmits<{ asked: [] }>();
</script>

<template>
  <p class="acts">
    <span class="quiet">{{ says }}</span>
    <NButton v-bind="$attrs" size="small" :disabled="isBusy" @click="$emit('asked')">{{ ask }}</NButton>
  </p>
</template>

<style scoped>
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 0.6rem;
  align-items: center;
}
</style>
