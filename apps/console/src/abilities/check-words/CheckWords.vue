<script setup lang="ts">
import { areWordsSame } from '@porch/core';
import { NButton } from 'naive-ui';
import type { ConsoleSession } from '../console-ability.ts';
import { checkWordsTool } from './tool.ts';

/* The words of this session, to be read to the customer and compared at their computer. */
const props = defineProps<{ session: ConsoleSession }>();
const { words, tries, askCompare } = props.session.tool(checkWordsTool);
</script>

<template>
  <section v-if="words.length" aria-label="Check words">
    <h2>Check words</h2>
    <p class="words" data-test="words">{{ words.join(' · ') }}</p>
    <p v-if="tries > 1" data-test="word-tries">
      These are set number {{ tries }} in this session. More than one means that a program at their side began anew, or
      was changed: compare again.
    </p>
    <p class="quiet">
      {{
        areWordsSame(session.state.value, session.connection.participantId)
          ? 'Compared: the same.'
          : 'Not compared. Until they are, who they are rests on the service.'
      }}
    </p>
    <NButton size="tiny" @click="askCompare()">Ask them to compare</NButton>
  </section>
</template>

<style scoped>
.words {
  font-weight: 700;
}
</style>
