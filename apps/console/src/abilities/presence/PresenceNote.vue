<script setup lang="ts">
import { computed } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';

/* Over the stage: why there is no picture just now, or why nobody works. */
const props = defineProps<{ session: ConsoleSession }>();
const presence = computed(() => props.session.state.value.slices.presence);
</script>

<template>
  <p v-if="presence.privateAt.length" class="private" role="status" data-test="is-private">
    They are doing something private. The picture comes back by itself.
  </p>
  <p v-else-if="presence.isAway" class="private" role="status" data-test="is-away">
    Nobody seems to be at their computer: mouse and keyboard pause. Ask under More: Use mouse and keyboard while they
    are away.
  </p>
</template>

<style scoped>
.private {
  position: absolute;
  inset: 0.6rem 0.6rem auto;
  margin: 0;
  padding: 0.5rem 0.8rem;
  text-align: center;
  border: 2px solid var(--amber);
  border-radius: 8px;
  background: var(--card);
}
</style>
