import { TechnicianReports } from '@porch/client';
import { compareReports, healthOf } from '@porch/core';
import { readSystemReport } from '@porch/wire';
import { defineKept } from '../cli-ability.ts';
import { systemReportCalls } from './calls.ts';

/** The ledger says that one was read before it can be kept. */
const TOLD_MS = 10_000;

export const keptSystemReport = defineKept({
  name: 'system-report',
  calls: systemReportCalls,
  begin(kit) {
    const technician = new TechnicianReports(kit.connection);
    return { kit, technician, close: () => technician.close() };
  },
  answer: {
    async systemReport({ technician, kit }) {
      kit.need('read-system-report');
      const { connection, rest } = kit;
      const looking = rest.earlierSystemReport(connection.sessionId);
      const { id, ...report } = await technician.read(() => undefined);
      const earlier = readSystemReport((await looking)?.report);
      await kit.until(() => connection.state.slices['system-report'][id] !== undefined, TOLD_MS);
      await rest.keepSystemReport(connection.sessionId, id, report);
      return {
        report,
        health: healthOf(report.parts, report.takenAtMs),
        ...(earlier ? { earlierAtMs: earlier.takenAtMs, differences: compareReports(earlier, report) } : {}),
      };
    },
  },
});
