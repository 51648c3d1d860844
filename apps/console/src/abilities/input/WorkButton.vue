<script setup lang="ts">
import { NButton } from 'naive-ui';
import type { ConsoleSession } from '../console-ability.ts';
import { inputTool } from './tool.ts';

const props = defineProps<{ session: ConsoleSession }>();
const { isWorking, open, release } = props.session.tool(inputTool);
</script>

<template>
  <NButton
    size="small"
    type="primary"
    data-test="work"
    :aria-pressed="isWorking"
    @click="isWorking ? release() : open()"
    >{{ isWorking ? 'Hands off' : 'Work' }}</NButton
  >
</template>
