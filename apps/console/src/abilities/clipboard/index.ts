import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { clipboardTool } from './tool.ts';

export const clipboard: ConsoleAbility = {
  name: 'clipboard',
  tool: clipboardTool,
  shelf: {
    group: 'bring',
    letter: 'C',
    label: () => w.value.clipboard.shelf,
    isShown: (session) => {
      const { mayGive, mayRead } = session.tool(clipboardTool);
      return mayGive.value || mayRead.value;
    },
    panel: defineAsyncComponent(() => import('./ClipboardPanel.vue')),
  },
  note: defineAsyncComponent(() => import('./ClipboardNote.vue')),
};
