<script setup lang="ts">
import { NButton } from 'naive-ui';
import { nextTick, ref } from 'vue';

const emit = defineEmits<{ end: []; leave: [] }>();
const isAsking = ref(false);
const first = ref<HTMLElement>();

/** Ending is for everybody and for good: it is asked once, with what will happen. */
async function ask(): Promise<void> {
  isAsking.value = true;
  await nextTick();
  first.value?.focus();
}
function done(what: 'end' | 'leave' | 'stay'): void {
  isAsking.value = false;
  if (what === 'end') emit('end');
  else if (what === 'leave') emit('leave');
}
</script>

<template>
  <div class="leave" @keydown.esc="done('stay')">
    <NButton
      size="small"
      type="error"
      data-test="end"
      :aria-expanded="isAsking"
      @click="isAsking ? done('stay') : ask()"
      >End …</NButton
    >
    <div v-if="isAsking" ref="first" class="panel" role="group" aria-label="End or leave" tabindex="-1">
      <p>
        <b>End it</b>: for everybody. Nothing is seen or worked any longer, files on their way stop, the customer gets
        their copy, and you log the outcome.
      </p>
      <p>
        <b>Leave without ending</b>: you go, and what you were allowed is over. The customer stays and can write; come
        back from the porch. If nobody does, the session ends by itself.
      </p>
      <p class="buttons">
        <NButton size="small" type="error" data-test="end-now" @click="done('end')">End it for everybody</NButton>
        <NButton size="small" data-test="leave" @click="done('leave')">Leave without ending</NButton>
        <NButton size="small" @click="done('stay')">Stay</NButton>
      </p>
    </div>
  </div>
</template>

<style scoped>
.leave {
  position: relative;
}
.panel {
  position: absolute;
  inset: calc(100% + 0.3rem) 0 auto auto;
  z-index: 20;
  width: min(26rem, 90vw);
  padding: 0.8rem;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 8px;
  box-shadow: 0 4px 16px rgb(0 0 0 / 20%);
}
.panel p {
  margin: 0 0 0.5rem;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
}
@media (max-width: 760px) {
  .panel {
    position: fixed;
    inset: auto 0.5rem 0.5rem;
    width: auto;
  }
}
</style>
