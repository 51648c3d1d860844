<script setup lang="ts">
/* A line over the top of the stage: why what is to be seen there is as it is. Amber where somebody waits for it to be over. */
defineProps<{ isWaiting?: boolean }>();
</script>

<template>
  <p class="stage-note" :class="{ waiting: isWaiting }" role="status"><slot /></p>
</template>

<style scoped>
.stage-note {
  position: absolute;
  inset: 0.6rem 0.6rem auto;
  margin: 0;
  padding: 0.5rem 0.8rem;
  text-align: center;
  border: 2px solid var(--line);
  border-radius: 8px;
  background: var(--card);
}
.waiting {
  border-color: var(--amber);
}
</style>
