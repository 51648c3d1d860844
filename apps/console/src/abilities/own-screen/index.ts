import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { ownScreenTool } from './tool.ts';

export const ownScreen: ConsoleAbility = {
  name: 'own-screen',
  tool: ownScreenTool,
  shelf: {
    group: 'show',
    letter: 'O',
    label: () => w.value.ownScreen.title,
    isShown: (session) => session.tool(ownScreenTool).mayShow.value,
    panel: defineAsyncComponent(() => import('./OwnScreenPanel.vue')),
  },
  besideName: (session) => (session.tool(ownScreenTool).what.value ? w.value.ownScreen.showsHere : undefined),
  note: defineAsyncComponent(() => import('./OwnScreenNote.vue')),
};
