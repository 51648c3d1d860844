import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { programsTool } from './tool.ts';

export const programs: ConsoleAbility = {
  name: 'programs',
  tool: programsTool,
  shelf: {
    group: 'look',
    letter: 'G',
    label: () => w.value.programs.title,
    isShown: (session) => session.tool(programsTool).mayLook.value,
    isWide: true,
    panel: defineAsyncComponent(() => import('./ProgramsPanel.vue')),
  },
};
