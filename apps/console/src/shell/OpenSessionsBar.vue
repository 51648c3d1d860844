<script setup lang="ts">
import { NButton } from 'naive-ui';
import { computed, ref } from 'vue';
import { useRoute } from 'vue-router';
import { pictureTool } from '../abilities/picture/tool.ts';
import { useDesk } from '../desk.ts';
import { w } from '../words/index.ts';
import OpenSession from './OpenSession.vue';

/* The sessions that are open, along the bottom edge of every page. */
const { sessions } = useDesk();
const route = useRoute();
const hasPictures = ref(false);
/** Small pictures are of sessions that are not on the stage already. */
const canHavePictures = computed(() =>
  sessions.list.value.some((s) => s.tool(pictureTool).mayLook.value && route.path !== `/session/${s.id}`),
);
</script>

<template>
  <footer class="open" :aria-label="w.shell.openSessions">
    <OpenSession
      v-for="s in sessions.list.value"
      :key="s.id"
      :session="s"
      :has-picture="hasPictures && route.path !== `/session/${s.id}`"
    />
    <NButton
      v-if="canHavePictures"
      size="tiny"
      :aria-pressed="hasPictures"
      data-test="small-pictures"
      @click="hasPictures = !hasPictures"
      >{{ hasPictures ? w.shell.hidePictures : w.shell.showPictures }}</NButton
    >
  </footer>
</template>

<style scoped>
.open {
  display: flex;
  align-items: end;
  gap: 0.5rem;
  padding: 0.35rem 0.8rem;
  background: var(--card);
  border-top: 1px solid var(--line);
  overflow-x: auto;
}
</style>
