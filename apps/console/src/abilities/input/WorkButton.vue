<script setup lang="ts">
import type { ConsoleSession } from '../console-ability.ts';
import ShelfButton from '../ShelfButton.vue';
import { inputTool } from './tool.ts';

const props = defineProps<{ session: ConsoleSession }>();
const { isWorking, toggle, toggleLabel } = props.session.tool(inputTool);
</script>

<template>
  <ShelfButton
    :sign="isWorking ? 'pause' : 'input'"
    :label="toggleLabel"
    letter="W"
    :is-on="isWorking"
    data-test="work"
    :aria-pressed="isWorking"
    @click="toggle"
  />
</template>
