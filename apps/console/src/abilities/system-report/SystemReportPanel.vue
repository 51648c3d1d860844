<script setup lang="ts">
import { csvOf, rowsOfPart, safeFileName } from '@porch/client';
import { reportPartNames } from '@porch/core';
import { NButton } from 'naive-ui';
import { computed } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';
import { saveAs } from '../files/save.ts';
import { speech, w } from '../../words/index.ts';
import SystemReportFound from './SystemReportFound.vue';
import { systemReportTool } from './tool.ts';

/* The whole report, part by part as they come; saved, and printed. */
const props = defineProps<{ session: ConsoleSession }>();
const { parts, missing, mayRead, hasOne, isReading, isKept, read, report } = props.session.tool(systemReportTool);
const sections = computed(() =>
  reportPartNames.flatMap((name) => {
    const rows = rowsOfPart(name, parts.value, w.value.systemReport, speech.value);
    const why = missing.value[name];
    return rows.length || why ? [{ name, rows, why }] : [];
  }),
);
/** What a computer calls itself is its own word. */
const fileName = (ending: string) =>
  safeFileName(`system-report-${parts.value.system?.computer ?? 'computer'}.${ending}`);
const saveJson = () =>
  saveAs(fileName('json'), new Blob([JSON.stringify(report(), undefined, 2)], { type: 'application/json' }));
function saveCsv(): void {
  const { parts: names } = w.value.systemReport;
  const rows = sections.value.flatMap(({ rows: all }) =>
    all.map(([part, label, value]) => [names[part], label, value]),
  );
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
    <template v-for="{ name, rows, why } in sections" :key="name">
      <h3>{{ w.systemReport.parts[name] }}</h3>
      <p v-if="why" class="quiet">{{ w.systemReport.missing[why] }}</p>
      <dl v-else>
        <template v-for="([, label, value], i) in rows" :key="i">
          <dt>{{ label }}</dt>
          <dd>{{ value }}</dd>
        </template>
      </dl>
    </template>
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
h3 {
  font-size: 0.95rem;
  margin: 0.7rem 0 0.2rem;
}
p {
  margin: 0.2rem 0;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
}
dl {
  margin: 0;
  display: grid;
  grid-template-columns: minmax(5.5rem, auto) minmax(0, 1fr);
  gap: 0.1rem 0.6rem;
  font-size: 0.9rem;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
}
@media print {
  .acts {
    display: none;
  }
}
</style>
