import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { filesTool } from './tool.ts';

export const files: ConsoleAbility = {
  name: 'files',
  tool: filesTool,
  shelf: {
    group: 'bring',
    letter: 'F',
    label: () => w.value.files.title,
    isShown: ({ state }) => state.value.phase.name === 'live',
    panel: defineAsyncComponent(() => import('./FilesPanel.vue')),
  },
};
