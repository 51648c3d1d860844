<script setup lang="ts">
import { nextTick, ref, watch } from 'vue';
import type { CustomerSession } from './customer-session.ts';
import { w } from './words/index.ts';

/* What a technician shows of their own screen, until they stop or the person here closes it. */
const props = defineProps<{ session: CustomerSession }>();
const { shown } = props.session.share;
const { now } = shown;
const place = ref<HTMLElement>();
const toggle = ref<HTMLButtonElement>();
const isLarge = ref(false);

watch(
  [place, () => now.value?.canvas],
  ([element, canvas]) => {
    if (element && canvas && !element.contains(canvas)) element.replaceChildren(canvas);
    if (!canvas) isLarge.value = false;
  },
  { immediate: true, flush: 'post' },
);

/** Whoever uses keys is still at the same button. */
async function setLarge(is: boolean): Promise<void> {
  isLarge.value = is;
  await nextTick();
  toggle.value?.focus();
}
</script>

<template>
  <section
    v-if="now"
    class="card"
    :class="{ large: isLarge }"
    aria-labelledby="shown"
    data-test="shown"
    @keydown.esc="setLarge(false)"
  >
    <div class="head">
      <h2 id="shown">{{ now.title }}</h2>
      <p class="answers">
        <button ref="toggle" data-test="shown-large" :aria-pressed="isLarge" @click="setLarge(!isLarge)">
          {{ isLarge ? w.ownScreen.smaller : w.ownScreen.larger }}
        </button>
        <button data-test="shown-close" @click="shown.close()">{{ now.close }}</button>
      </p>
    </div>
    <div v-show="now.hasPicture" ref="place" class="picture" role="img" :aria-label="now.title" />
    <p v-if="now.note" role="status" data-test="shown-note">{{ now.note }}</p>
  </section>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem 1rem;
  align-items: center;
  justify-content: space-between;
}
.answers {
  display: flex;
  flex-wrap: wrap;
  gap: 0.6rem;
  margin: 0;
}
.picture {
  display: flex;
  min-height: 0;
  margin-top: 0.6rem;
}
.picture :deep(canvas) {
  max-width: 100%;
  max-height: 70vh;
  margin: 0 auto;
  border: 1px solid var(--line);
  background: #000;
}
.large {
  position: fixed;
  z-index: 20;
  inset: 0;
  display: flex;
  flex-direction: column;
  margin: 0;
  overflow: auto;
  border-radius: 0;
}
.large .picture {
  flex: 1;
}
.large .picture :deep(canvas) {
  max-height: 100%;
  object-fit: contain;
}
</style>
