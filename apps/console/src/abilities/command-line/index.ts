import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { commandLineTool } from './tool.ts';

export const commandLine: ConsoleAbility = {
  name: 'command-line',
  tool: commandLineTool,
  shelf: {
    group: 'run',
    letter: 'T',
    label: () => w.value.commandLine.title,
    isShown: () => true,
    isWide: true,
    panel: defineAsyncComponent(() => import('./CommandLinePanel.vue')),
  },
  besideName: (session) => (session.tool(commandLineTool).now.value ? w.value.commandLine.isOpen : undefined),
};
