import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { speakingTool } from './tool.ts';

export const speaking: ConsoleAbility = {
  name: 'speaking',
  tool: speakingTool,
  shelf: {
    label: () => w.value.speaking.open,
    isShown: (session) => session.tool(speakingTool).maySpeak.value,
    button: defineAsyncComponent(() => import('./SpeakButton.vue')),
  },
};
