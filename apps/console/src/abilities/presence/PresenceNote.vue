<script setup lang="ts">
import { permissionLabel } from '@porch/core';
import { computed } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import { ledger, w } from '../../words/index.ts';

/* Over the stage: why there is no picture just now, or why nobody works. */
const props = defineProps<{ session: ConsoleSession }>();
const presence = computed(() => props.session.state.value.slices.presence);
</script>

<template>
  <p v-if="presence.privateAt.length" class="private" role="status" data-test="is-private">
    {{ w.presence.isPrivate }}
  </p>
  <p v-else-if="presence.isAway" class="private" role="status" data-test="is-away">
    {{ w.presence.isAway({ permission: permissionLabel('work-alone', ledger) }) }}
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
