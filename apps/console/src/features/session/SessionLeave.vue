<script setup lang="ts">
import { Said } from '@porch/pages';
import { NButton } from 'naive-ui';
import { nextTick, ref } from 'vue';
import { w } from '../../words/index.ts';

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
      size="tiny"
      ghost
      color="#f4efe2"
      data-test="end"
      :aria-expanded="isAsking"
      @click="isAsking ? done('stay') : ask()"
      >{{ w.leaving.end }}</NButton
    >
    <div v-if="isAsking" ref="first" class="panel" role="group" :aria-label="w.leaving.panel" tabindex="-1">
      <p>
        <Said :of="w.leaving.aboutEnd"
          ><template #b="{ text }"
            ><b>{{ text }}</b></template
          ></Said
        >
      </p>
      <p>
        <Said :of="w.leaving.aboutLeave"
          ><template #b="{ text }"
            ><b>{{ text }}</b></template
          ></Said
        >
      </p>
      <p class="buttons">
        <NButton size="small" type="error" data-test="end-now" @click="done('end')">{{ w.leaving.endNow }}</NButton>
        <NButton size="small" data-test="leave" @click="done('leave')">{{ w.leaving.leave }}</NButton>
        <NButton size="small" @click="done('stay')">{{ w.leaving.stay }}</NButton>
      </p>
    </div>
  </div>
</template>

<style scoped>
.leave {
  position: relative;
}
.panel {
  color: var(--ink);
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
