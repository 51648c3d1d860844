import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { rightsTool } from './tool.ts';

export const administratorRights: ConsoleAbility = {
  name: 'administrator-rights',
  tool: rightsTool,
  shelf: {
    group: 'run',
    letter: 'E',
    label: () => w.value.administratorRights.title,
    isShown: () => true,
    panel: defineAsyncComponent(() => import('./RightsPanel.vue')),
  },
  besideName: (session) => (session.tool(rightsTool).raised.value ? w.value.administratorRights.areRaised : undefined),
};
