import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import AwayNote from './AwayNote.vue';
import { restartTool } from './tool.ts';

export const restartAndReturn: ConsoleAbility = {
  name: 'restart-and-return',
  tool: restartTool,
  shelf: {
    group: 'run',
    letter: 'N',
    label: () => w.value.restartAndReturn.title,
    isShown: () => true,
    panel: defineAsyncComponent(() => import('./RestartPanel.vue')),
  },
  note: AwayNote,
  besideName: (session) => (session.tool(restartTool).away.value ? w.value.restartAndReturn.isAway : undefined),
};
