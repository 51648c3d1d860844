<script setup lang="ts">
import { NButton } from 'naive-ui';
import type { ConsoleSession } from '../console-ability.ts';
import { inputTool } from './tool.ts';
import { w } from '../../words/index.ts';

const props = defineProps<{ session: ConsoleSession }>();
const { isWorking, open, release } = props.session.tool(inputTool);
</script>

<template>
  <NButton
    size="small"
    :type="isWorking ? 'default' : 'primary'"
    data-test="work"
    :aria-pressed="isWorking"
    @click="isWorking ? release() : open()"
    >{{ isWorking ? w.input.pause : w.input.work }}</NButton
  >
</template>
