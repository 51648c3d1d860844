import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { runbookTool } from './tool.ts';

export const runbook: ConsoleAbility = {
  name: 'runbook',
  tool: runbookTool,
  shelf: {
    group: 'run',
    letter: 'J',
    label: () => w.value.runbook.title,
    isShown: () => true,
    isWide: true,
    panel: defineAsyncComponent(() => import('./RunbookPanel.vue')),
  },
};
