import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { pictureTool } from './tool.ts';

export const picture: ConsoleAbility = {
  name: 'picture',
  tool: pictureTool,
  shelf: {
    group: 'show',
    letter: 'I',
    label: () => w.value.picture.shelf,
    isShown: (session) => session.tool(pictureTool).mayLook.value,
    panel: defineAsyncComponent(() => import('./PicturePanel.vue')),
  },
};
