<script setup lang="ts">
import { computed } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import ShelfButton from '../ShelfButton.vue';
import { inputTool } from './tool.ts';
import { w } from '../../words/index.ts';

const props = defineProps<{ session: ConsoleSession }>();
const { isWorking, open, release } = props.session.tool(inputTool);
const label = computed(() => (isWorking.value ? w.value.input.pause : w.value.input.work));
</script>

<template>
  <ShelfButton
    :sign="isWorking ? 'pause' : 'input'"
    :label="label"
    letter="W"
    :is-on="isWorking"
    data-test="work"
    :aria-pressed="isWorking"
    @click="isWorking ? release() : open()"
  />
</template>
