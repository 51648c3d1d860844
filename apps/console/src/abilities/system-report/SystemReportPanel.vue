<script setup lang="ts">
import { csvOf, rowsOfPart, safeFileName } from '@porch/client';
import { reportPartNames } from '@porch/core';
import { NButton } from 'naive-ui';
import type { ConsoleSession } from '../console-ability.ts';
import { saveAs } from '../files/save.ts';
import { speech, w } from '../../words/index.ts';
import ReportParts from './ReportParts.vue';
import SystemReportFound from './SystemReportFound.vue';
import { systemReportTool } from './tool.ts';

/* The whole report, part by part as they come; saved, and printed. */
const props = defineProps<{ session: ConsoleSession }>();
const { parts, missing, mayRead, hasOne, isReading, isKept, read, report } = props.session.tool(systemReportTool);
/** What a computer calls itself is its own word. */
const fileName = (ending: string) =>
  safeFileName(`system-report-${parts.value.system?.computer ?? 'computer'}.${ending}`);
const saveJson = () =>
  saveAs(fileName('json'), new Blob([JSON.stringify(report(), undefined, 2)], { type: 'application/json' }));
function saveCsv(): void {
  const { systemReport } = w.value;
  const rows = reportPartNames
    .flatMap((name) => rowsOfPart(name, parts.value, systemReport, speech.value))
    .map(([part, label, value]) => [systemReport.parts[part], label, value]);
  saveAs(fileName('csv'), new Blob([csvOf(['PART', 'WHAT', 'VALUE'], rows)], { type: 'text/csv' }));
}
const printIt = () => window.print();
</script>

<template>
  <section class="report printed" :aria-label="w.systemReport.title" data-test="report">
    <h1>{{ w.systemReport.title }}</h1>
    <p v-if="!hasOne" class="quiet">{{ w.systemReport.about }}</p>
    <p class="acts">
      <NButton v-if="mayRead" size="small" :loading="isReading" data-test="read-report" @click="read">{{
        hasOne ? w.systemReport.readAgain : w.systemReport.read
      }}</NButton>
      <template v-if="hasOne">
        <NButton size="small" data-test="report-json" @click="saveJson">{{ w.systemReport.saveJson }}</NButton>
        <NButton size="small" data-test="report-csv" @click="saveCsv">{{ w.systemReport.saveCsv }}</NButton>
        <NButton size="small" @click="printIt">{{ w.systemReport.print }}</NButton>
      </template>
    </p>
    <p v-if="isKept" role="status" class="quiet" data-test="report-kept">{{ w.systemReport.isKept }}</p>
    <SystemReportFound v-if="hasOne" :session="session"><span /></SystemReportFound>
    <ReportParts :parts="parts" :missing="missing" />
  </section>
</template>

<style scoped>
.report {
  padding: 0.6rem;
  overflow-wrap: anywhere;
}
h1 {
  font-size: 1.1rem;
}
p {
  margin: 0.2rem 0;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
}
@media print {
  .acts {
    display: none;
  }
}
</style>
