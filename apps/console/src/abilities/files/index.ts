import { defineAsyncComponent } from 'vue';
import type { ConsoleAbility } from '../console-ability.ts';
import { filesTool } from './tool.ts';

export const files: ConsoleAbility = {
  name: 'files',
  tool: filesTool,
  shelf: {
    label: 'Files',
    isShown: ({ state }) => state.value.phase.name === 'live',
    panel: defineAsyncComponent(() => import('./FilesPanel.vue')),
  },
};
