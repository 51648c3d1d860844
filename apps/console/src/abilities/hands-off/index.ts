import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { pictureTool } from '../picture/tool.ts';
import { handsOffTool } from './tool.ts';

export const handsOff: ConsoleAbility = {
  name: 'hands-off',
  tool: handsOffTool,
  shelf: {
    group: 'run',
    letter: 'Q',
    label: () => w.value.handsOff.title,
    isShown: (session) => session.tool(pictureTool).mayLook.value,
    panel: defineAsyncComponent(() => import('./HandsOffPanel.vue')),
  },
  besideName: (session) =>
    session
      .tool(handsOffTool)
      .resting.value.map(({ what }) => w.value.handsOff.beside[what])
      .join('; ') || undefined,
  note: defineAsyncComponent(() => import('./HandsOffNote.vue')),
};
