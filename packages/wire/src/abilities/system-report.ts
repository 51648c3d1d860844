import { reportPartNames, reportParts, WhyMissing, type PartOf, type ReportPart } from '@porch/core';
import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';

/** A whole report, as JSON. */
export const MAX_REPORT_BYTES = 128 * 1024;

const id = z.uuid();
const part = z.enum(reportPartNames as [ReportPart, ...ReportPart[]]);

/** What a part says is looked at by its name: `reportParts` in core. */
const Value = z.record(z.string(), z.unknown());

/**
 * Technician ↔ the customer's side. `read` asks for all parts; each comes by itself as soon as it is there, the slow ones
 * last, and `done` says that there are no more. `stop` ends it.
 */
export const SystemReportMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('read'), reportId: id }),
  z.strictObject({ type: z.literal('stop'), reportId: id }),
  z.strictObject({ type: z.literal('part'), reportId: id, part, value: Value }),
  z.strictObject({ type: z.literal('missing'), reportId: id, part, why: WhyMissing }),
  z.strictObject({ type: z.literal('done'), reportId: id }),
  z.strictObject({ type: z.literal('refused'), reportId: id, why: z.string().max(120) }),
]);
export type SystemReportMessage = z.infer<typeof SystemReportMessage>;

/** What a computer said of one part; undefined for what is none, whoever sent it. */
export function readReportPart<P extends ReportPart>(name: P, value: unknown): PartOf<P> | undefined {
  const read = reportParts[name].safeParse(value);
  return read.success ? (read.data as PartOf<P>) : undefined;
}

export const systemReportChannel = defineChannel({
  name: 'system-report',
  id: 18,
  line: 'bulk',
  message: SystemReportMessage,
  needs: { toCustomer: ['read-system-report'], toDesk: ['read-system-report'] },
});
