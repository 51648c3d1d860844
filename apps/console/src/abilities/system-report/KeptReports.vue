<script setup lang="ts">
import { inBackground } from '@porch/client';
import type { SystemReport } from '@porch/core';
import { readSystemReport, type KeptSystemReport } from '@porch/wire';
import { NButton } from 'naive-ui';
import { onMounted, shallowRef } from 'vue';
import { useDesk } from '../../desk.ts';
import { exactly } from '../../times.ts';
import { useAttempt } from '../../use-attempt.ts';
import { w } from '../../words/index.ts';
import ReportParts from './ReportParts.vue';

/* System reports that lie with a session of before. */
const props = defineProps<{ id: string }>();
const { rest } = useDesk();
const kept = shallowRef<readonly KeptSystemReport[]>([]);
const opened = shallowRef<{ readonly id: string; readonly report: SystemReport }>();
const { trouble, attempt } = useAttempt();

onMounted(() =>
  inBackground(
    'reading which system reports were kept',
    attempt(async () => void (kept.value = await rest.systemReports(props.id))),
  ),
);
const toggle = (reportId: string) =>
  attempt(async () => {
    if (opened.value?.id === reportId) {
      opened.value = undefined;
      return;
    }
    const report = readSystemReport(await rest.systemReport(props.id, reportId));
    opened.value = report && { id: reportId, report };
  });
</script>

<template>
  <section v-if="kept.length || trouble" :aria-label="w.systemReport.kept" data-test="kept-reports">
    <h2>{{ w.systemReport.kept }}</h2>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
    <div v-for="one in kept" :key="one.reportId">
      <NButton
        size="small"
        :aria-expanded="opened?.id === one.reportId"
        data-test="kept-report"
        @click="toggle(one.reportId)"
        >{{ exactly(one.keptAtMs) }}</NButton
      >
      <div v-if="opened?.id === one.reportId" class="card">
        <ReportParts :parts="opened.report.parts" :missing="opened.report.missing" />
      </div>
    </div>
  </section>
</template>
