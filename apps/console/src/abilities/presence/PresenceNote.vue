<script setup lang="ts">
import { permissionLabel } from '@porch/core';
import { computed } from 'vue';
import StageNote from '../StageNote.vue';
import type { ConsoleSession } from '../console-ability.ts';
import { ledger, w } from '../../words/index.ts';

/* Over the stage: why there is no picture just now, or why nobody works. */
const props = defineProps<{ session: ConsoleSession }>();
const presence = computed(() => props.session.state.value.slices.presence);
</script>

<template>
  <StageNote v-if="presence.privateAt.length" is-waiting data-test="is-private">{{ w.presence.isPrivate }}</StageNote>
  <StageNote v-else-if="presence.isBehind" is-waiting data-test="is-behind">{{ w.presence.isBehind }}</StageNote>
  <StageNote v-else-if="presence.isAway" is-waiting data-test="is-away">
    {{ w.presence.isAway({ permission: permissionLabel('work-alone', ledger) }) }}
  </StageNote>
</template>
