import { inBackground } from '@porch/client';
import { compareReports, healthOf, reportPartNames } from '@porch/core';
import { computed, watch } from 'vue';
import { defineTool } from '../console-ability.ts';
import { ReportReading } from './report-reading.ts';

/** A system report: read as soon as it is allowed, compared with an earlier one of the device, and kept with the session. */
export const systemReportTool = defineTool({
  name: 'system-report',
  begin(session) {
    const reading = new ReportReading(session);
    const { coming, earlier, isReading, isKept, trouble } = reading;
    const mayRead = computed(() => (void session.told.value, session.may('read-system-report')));
    const mayBegin = computed(() => mayRead.value && session.isHolderThere.value);
    const stops = [
      watch(
        () => session.state.value.slices['system-report'],
        () => inBackground('keeping a system report', reading.keep()),
      ),
      watch(mayBegin, (may) => may && inBackground('reading a system report', reading.begin()), { immediate: true }),
    ];
    const parts = computed(() => coming.value?.parts ?? {});
    const missing = computed(() => coming.value?.missing ?? {});
    return {
      ...{ mayRead, earlier, isReading, isKept, trouble, parts, missing },
      hasOne: computed(() => coming.value !== undefined),
      comeCount: computed(() => Object.keys(parts.value).length + Object.keys(missing.value).length),
      allCount: reportPartNames.length,
      health: computed(() => healthOf(parts.value, session.connection.clock.wallMs())),
      differences: computed(() => (coming.value && earlier.value ? compareReports(earlier.value, reading.report) : [])),
      read: () => reading.read(),
      report: () => reading.report,
      close: () => {
        stops.forEach((stop) => stop());
        reading.close();
      },
    };
  },
});
