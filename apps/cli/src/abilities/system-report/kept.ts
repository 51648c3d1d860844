import { inBackground, TechnicianReports } from '@porch/client';
import { compareReports, healthOf, reportPartNames, type SystemReport } from '@porch/core';
import { readSystemReport } from '@porch/wire';
import { defineKept } from '../cli-ability.ts';
import { systemReportCalls } from './calls.ts';

/** The ledger says that one was read before it can be kept. */
const TOLD_MS = 10_000;
/** Asks a package system, which takes seconds. */
const SLOW_PART = 'updates';

export const keptSystemReport = defineKept({
  name: 'system-report',
  calls: systemReportCalls,
  begin(kit) {
    const technician = new TechnicianReports(kit.connection);
    return { kit, technician, close: () => technician.close() };
  },
  answer: {
    /** Tells once all is there but what takes long; resolves with all of it. */
    async systemReport({ technician, kit }, _call, tell) {
      kit.need('read-system-report');
      const { connection, rest } = kit;
      const looking = rest.earlierSystemReport(connection.sessionId).then((found) => readSystemReport(found?.report));
      let isTold = false;
      const { id, ...report } = await technician.read(({ parts, missing }) => {
        if (isTold || !reportPartNames.every((part) => part === SLOW_PART || parts[part] || missing[part])) return;
        isTold = true;
        const soFar = { version: 1 as const, takenAtMs: connection.clock.wallMs(), parts, missing };
        inBackground(
          'what was reported earlier',
          looking.then((earlier) => tell(readOf(soFar, earlier))),
        );
      });
      const earlier = await looking;
      await kit.until(() => connection.state.slices['system-report'][id] !== undefined, TOLD_MS);
      await rest.keepSystemReport(connection.sessionId, id, report);
      return readOf(report, earlier);
    },
  },
});

const readOf = (report: SystemReport, earlier: SystemReport | undefined) => ({
  report,
  health: healthOf(report.parts, report.takenAtMs),
  ...(earlier ? { earlierAtMs: earlier.takenAtMs, differences: compareReports(earlier, report) } : {}),
});
