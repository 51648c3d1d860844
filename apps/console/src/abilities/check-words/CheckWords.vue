<script setup lang="ts">
import { areWordsSame } from '@porch/core';
import { NButton } from 'naive-ui';
import type { ConsoleSession } from '../console-ability.ts';
import { checkWordsTool } from './tool.ts';
import { w } from '../../words/index.ts';

/* The words of this session, to be read to the customer and compared at their computer. */
const props = defineProps<{ session: ConsoleSession }>();
const { words, tries, askCompare } = props.session.tool(checkWordsTool);
</script>

<template>
  <section v-if="words.length" :aria-label="w.checkWords.title">
    <h2>{{ w.checkWords.title }}</h2>
    <p class="words" data-test="words">{{ words.join(' · ') }}</p>
    <p v-if="tries > 1" data-test="word-tries">
      {{ w.checkWords.nthWords({ n: tries }) }}
    </p>
    <p class="quiet">
      {{
        areWordsSame(session.state.value, session.connection.participantId)
          ? w.checkWords.same
          : w.checkWords.notCompared
      }}
    </p>
    <NButton size="tiny" @click="askCompare()">{{ w.checkWords.ask }}</NButton>
  </section>
</template>

<style scoped>
.words {
  font-weight: 700;
}
</style>
