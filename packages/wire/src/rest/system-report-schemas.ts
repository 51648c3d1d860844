import { SystemReport } from '@porch/core';
import { z } from 'zod';
import { Moment } from './moment.ts';

/* System reports in the records of a session. */

/** A report as it is kept: the moments in it are milliseconds since 1970, and stay so. */
export const KeepSystemReportBody = z.strictObject({ report: z.unknown() });
export const KeptSystemReport = z.object({
  reportId: z.uuid(),
  keptAtMs: Moment,
  sizeBytes: z.number(),
  sha256: z.string(),
});
export type KeptSystemReport = z.output<typeof KeptSystemReport>;
/** Another report of the same device, from a session of before. */
export const EarlierSystemReport = z.object({
  sessionId: z.uuid(),
  technicianName: z.string(),
  report: z.unknown(),
});
export const FoundEarlierReport = z.object({ found: EarlierSystemReport.optional() });

/** A report as it was kept; undefined for one that this program cannot read. */
export function readSystemReport(value: unknown): SystemReport | undefined {
  const read = SystemReport.safeParse(value);
  return read.success ? read.data : undefined;
}
