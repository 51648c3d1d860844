<script setup lang="ts">
import { THUMBNAIL_FROM } from '@porch/wire';
import { computed, onBeforeUnmount, ref, watch } from 'vue';
import { pictureTool } from '../abilities/picture/tool.ts';
import type { TechnicianSession } from '../features/session/technician-session.ts';
import { w } from '../words/index.ts';

/* One session at the bottom edge: whose it is, how it stands, what was not read, and on demand a small picture. */
const props = defineProps<{ session: TechnicianSession; hasPicture: boolean }>();
const state = computed(() => props.session.state.value);
const mayShow = computed(() => props.hasPicture && props.session.tool(pictureTool).mayLook.value);
const size = ref({ width: 16, height: 9 });
const canvas = ref<HTMLCanvasElement>();
let close: (() => void) | undefined;

watch(canvas, (element) => {
  close?.();
  close = element
    ? props.session.tool(pictureTool).showDisplay(THUMBNAIL_FROM, element, {
        onSize: (width, height) => (size.value = { width, height }),
        onCursorShape: () => undefined,
        onCursorAt: () => undefined,
      })
    : undefined;
});
onBeforeUnmount(() => close?.());
</script>

<template>
  <RouterLink :to="`/session/${session.id}`">
    <canvas
      v-if="mayShow"
      ref="canvas"
      class="small"
      data-test="thumbnail"
      :style="{ aspectRatio: `${size.width} / ${size.height}` }"
      aria-hidden="true"
    />
    <span>
      {{ state.customerName ?? w.common.nobodyYet }} ·
      {{ session.failed.value ? w.shell.notYours : w.shell.phases[state.phase.name] }}
      <b v-for="words in session.besideName" :key="words" class="beside" data-test="beside-name">{{ words }}</b>
      <b v-if="session.unread.value" class="tabular">{{ w.shell.unread({ count: session.unread.value }) }}</b>
    </span>
  </RouterLink>
</template>

<style scoped>
a {
  display: grid;
  gap: 0.2rem;
  padding: 0.15rem 0.7rem;
  border: 1px solid var(--quiet);
  border-radius: 8px 8px 0 0;
  color: inherit;
  text-decoration: none;
  white-space: nowrap;
  align-content: end;
}
a.router-link-exact-active {
  border: 2px solid var(--accent);
}
.small {
  height: 5.5rem;
  background: #1d2b2e;
  justify-self: center;
}
b {
  margin-left: 0.3rem;
  color: var(--amber);
}
b.beside {
  color: var(--accent);
}
</style>
