import { defineAsyncComponent } from 'vue';
import type { ConsoleAbility } from '../console-ability.ts';
import { screenshotTool } from './tool.ts';

export const screenshot: ConsoleAbility = {
  name: 'screenshot',
  tool: screenshotTool,
  shelf: {
    label: 'Screenshot',
    isShown: (session) => session.tool(screenshotTool).mayTake.value,
    panel: defineAsyncComponent(() => import('./ScreenshotPanel.vue')),
  },
};
