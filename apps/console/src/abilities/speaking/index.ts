import { defineAsyncComponent } from 'vue';
import type { ConsoleAbility } from '../console-ability.ts';
import { speakingTool } from './tool.ts';

export const speaking: ConsoleAbility = {
  name: 'speaking',
  tool: speakingTool,
  strip: {
    isShown: (session) => session.tool(speakingTool).maySpeak.value,
    button: defineAsyncComponent(() => import('./SpeakButton.vue')),
  },
};
