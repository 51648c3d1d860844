import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { inputTool } from '../input/tool.ts';

export const keys: ConsoleAbility = {
  name: 'keys',
  shelf: {
    group: 'bring',
    letter: 'K',
    label: () => w.value.keys.shelf,
    isShown: (session) => session.tool(inputTool).mayWork.value,
    panel: defineAsyncComponent(() => import('./KeysPanel.vue')),
  },
};
