import { defineAsyncComponent } from 'vue';
import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import { systemReportTool } from './tool.ts';

export const systemReport: ConsoleAbility = {
  name: 'system-report',
  tool: systemReportTool,
  shelf: {
    group: 'look',
    letter: 'R',
    label: () => w.value.systemReport.title,
    isShown: (session) => session.tool(systemReportTool).mayRead.value || session.tool(systemReportTool).hasOne.value,
    panel: defineAsyncComponent(() => import('./SystemReportPanel.vue')),
  },
  kept: defineAsyncComponent(() => import('./KeptReports.vue')),
  lookUp: {
    isShown: (session) => session.tool(systemReportTool).hasOne.value,
    view: defineAsyncComponent(() => import('./SystemReportFound.vue')),
  },
};
