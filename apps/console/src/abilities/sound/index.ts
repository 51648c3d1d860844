import { defineAsyncComponent } from 'vue';
import type { ConsoleAbility } from '../console-ability.ts';
import { soundTool } from './tool.ts';

export const sound: ConsoleAbility = {
  name: 'sound',
  tool: soundTool,
  strip: {
    isShown: (session) => session.tool(soundTool).mayHear.value,
    button: defineAsyncComponent(() => import('./HearButton.vue')),
  },
};
