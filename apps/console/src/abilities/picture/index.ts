import { defineAsyncComponent } from 'vue';
import type { ConsoleAbility } from '../console-ability.ts';
import { pictureTool } from './tool.ts';

export const picture: ConsoleAbility = {
  name: 'picture',
  tool: pictureTool,
  shelf: {
    label: 'Picture',
    isShown: (session) => session.tool(pictureTool).mayLook.value,
    panel: defineAsyncComponent(() => import('./PicturePanel.vue')),
  },
};
