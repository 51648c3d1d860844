<script setup lang="ts">
import { NButton } from 'naive-ui';
import { computed } from 'vue';
import { speech, w } from '../../words/index.ts';
import type { ConsoleSession } from '../console-ability.ts';
import { customersName } from '../../customers-name.ts';
import { ownScreenTool } from './tool.ts';

/* As long as something of mine is shown it is said here, with the stop beside it, whatever else is open. */
const props = defineProps<{ session: ConsoleSession }>();
const tool = props.session.tool(ownScreenTool);
const { what, isSeen, isCovered } = tool;
const who = computed(() => customersName(props.session.state.value));
</script>

<template>
  <div v-if="what && isCovered" class="cover" data-test="own-screen-cover">
    <p>{{ w.ownScreen.covered }}</p>
    <NButton size="small" data-test="own-screen-uncover" @click="tool.uncover()">{{ w.ownScreen.uncover }}</NButton>
  </div>
  <p v-if="what" class="shown" role="status" data-test="own-screen-note">
    {{ w.ownScreen.showing[what] }}
    {{ isSeen ? speech.capital(w.ownScreen.seen({ who })) : w.ownScreen.unseen({ who }) }}
    <NButton size="tiny" data-test="own-screen-note-stop" @click="tool.stop()">{{ w.ownScreen.stop }}</NButton>
  </p>
</template>

<style scoped>
.cover {
  position: absolute;
  inset: 0;
  display: grid;
  align-content: center;
  justify-items: center;
  gap: 0.6rem;
  padding: 2rem;
  text-align: center;
  color: var(--ink);
  background: var(--card);
}
.cover p {
  max-width: 34rem;
  margin: 0;
}
.shown {
  position: absolute;
  /* Above the line that says what the picture costs; their bar is at the other end. */
  inset: auto 0.6rem 2.9rem;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: center;
  gap: 0.3rem 0.6rem;
  margin: 0;
  padding: 0.4rem 0.8rem;
  border: 2px solid var(--accent);
  border-radius: 8px;
  background: var(--card);
}
</style>
