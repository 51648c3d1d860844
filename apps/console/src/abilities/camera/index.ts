import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { cameraTool } from './tool.ts';

export const camera: ConsoleAbility = {
  name: 'camera',
  tool: cameraTool,
  shelf: {
    group: 'show',
    letter: 'V',
    label: () => w.value.camera.title,
    isShown: (session) => session.tool(cameraTool).maySee.value,
    panel: defineAsyncComponent(() => import('./CameraPanel.vue')),
  },
};
