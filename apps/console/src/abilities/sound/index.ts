import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { soundTool } from './tool.ts';

export const sound: ConsoleAbility = {
  name: 'sound',
  tool: soundTool,
  shelf: {
    label: () => w.value.sound.listen,
    isShown: (session) => session.tool(soundTool).mayHear.value,
    button: defineAsyncComponent(() => import('./HearButton.vue')),
  },
};
