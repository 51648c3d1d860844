<script setup lang="ts">
import { NButton } from 'naive-ui';
import { computed, ref, watch } from 'vue';
import { speech, w } from '../../words/index.ts';
import type { ConsoleSession } from '../console-ability.ts';
import { customersName } from '../../customers-name.ts';
import { ownScreenTool } from './tool.ts';

/* What of mine they see: chosen in the browser, with a copy of it here. */
const props = defineProps<{ session: ConsoleSession }>();
const tool = props.session.tool(ownScreenTool);
const { what, isSeen, stream, trouble, over } = tool;
const who = computed(() => customersName(props.session.state.value));
const copy = ref<HTMLVideoElement>();
watch(
  [copy, stream],
  ([element, shown]) => {
    if (element && element.srcObject !== shown) element.srcObject = shown ?? null;
  },
  { immediate: true },
);
const isOver = computed(() => {
  if (!over.value) return '';
  return over.value === 'closed'
    ? speech.value.capital(w.value.ownScreen.closed({ who: who.value }))
    : w.value.ownScreen.takenBack;
});
</script>

<template>
  <section class="own-screen" :aria-label="w.ownScreen.title">
    <h2>{{ w.ownScreen.title }}</h2>
    <p class="quiet">{{ w.ownScreen.about({ who }) }}</p>
    <p v-if="!tool.isPossible" role="status">{{ w.ownScreen.cannot }}</p>
    <p v-else class="row">
      <NButton size="small" :type="what ? 'default' : 'primary'" data-test="own-screen-choose" @click="tool.choose()">{{
        what ? w.ownScreen.other : w.ownScreen.choose
      }}</NButton>
      <NButton v-if="what" size="small" type="primary" data-test="own-screen-stop" @click="tool.stop()">{{
        w.ownScreen.stop
      }}</NButton>
    </p>
    <template v-if="what">
      <p role="status" data-test="own-screen-state">
        {{ w.ownScreen.showing[what] }}
        {{ isSeen ? speech.capital(w.ownScreen.seen({ who })) : w.ownScreen.unseen({ who }) }}
      </p>
      <video ref="copy" autoplay muted playsinline :aria-label="w.ownScreen.preview" />
    </template>
    <p v-if="isOver" role="status" data-test="own-screen-over">{{ isOver }}</p>
    <p v-if="trouble" role="alert" class="trouble">{{ trouble }}</p>
  </section>
</template>

<style scoped>
.own-screen {
  padding: 0.6rem;
}
video {
  width: 100%;
  border: 1px solid var(--line);
  background: #000;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem;
}
</style>
