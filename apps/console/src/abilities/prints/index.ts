import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { printsTool } from './tool.ts';

export const prints: ConsoleAbility = {
  name: 'prints',
  tool: printsTool,
  shelf: {
    group: 'bring',
    letter: 'D',
    label: () => w.value.prints.title,
    isShown: () => true,
    panel: defineAsyncComponent(() => import('./PrintsPanel.vue')),
  },
};
