import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { desktopsTool } from './tool.ts';

export const desktops: ConsoleAbility = {
  name: 'desktops',
  tool: desktopsTool,
  shelf: {
    group: 'together',
    letter: 'W',
    label: () => w.value.desktops.title,
    isShown: () => true,
    panel: defineAsyncComponent(() => import('./DesktopsPanel.vue')),
  },
};
