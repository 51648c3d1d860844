import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { safePointsTool } from './tool.ts';

export const safePoints: ConsoleAbility = {
  name: 'safe-points',
  tool: safePointsTool,
  shelf: {
    group: 'run',
    letter: 'B',
    label: () => w.value.safePoints.title,
    isShown: (session) => session.tool(safePointsTool).mayMake.value,
    panel: defineAsyncComponent(() => import('./SafePointsPanel.vue')),
  },
};
