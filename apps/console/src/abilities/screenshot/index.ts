import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { screenshotTool } from './tool.ts';

export const screenshot: ConsoleAbility = {
  name: 'screenshot',
  tool: screenshotTool,
  shelf: {
    group: 'look',
    letter: 'S',
    label: () => w.value.screenshot.title,
    isShown: (session) => session.tool(screenshotTool).mayTake.value,
    panel: defineAsyncComponent(() => import('./ScreenshotPanel.vue')),
  },
};
