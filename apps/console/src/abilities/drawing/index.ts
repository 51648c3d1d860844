import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { drawingTool } from './tool.ts';

export const drawing: ConsoleAbility = {
  name: 'drawing',
  tool: drawingTool,
  shelf: {
    group: 'show',
    letter: 'P',
    label: () => w.value.drawing.shelf,
    isShown: (session) => session.tool(drawingTool).mayDraw.value,
    panel: defineAsyncComponent(() => import('./DrawingPanel.vue')),
  },
};
