import { z } from 'zod';
import { operation, PageQuery, pageOf } from '../operation.ts';
import { FoundEarlierReport, KeepSystemReportBody, KeptSystemReport } from '../system-report-schemas.ts';

const OneSession = z.object({ id: z.uuid() });
const OneReport = z.object({ id: z.uuid(), reportId: z.uuid() });

export const keepSystemReport = operation({
  id: 'keepSystemReport',
  tag: 'System reports',
  method: 'PUT',
  path: '/sessions/{id}/system-reports/{reportId}',
  who: 'technician',
  params: OneReport,
  body: KeepSystemReportBody,
  answer: KeptSystemReport,
  old: 'none',
});
export const systemReports = operation({
  id: 'listSystemReports',
  tag: 'System reports',
  method: 'GET',
  path: '/sessions/{id}/system-reports',
  who: 'technician',
  params: OneSession,
  query: PageQuery,
  answer: pageOf(KeptSystemReport),
  old: 'none',
});
export const systemReport = operation({
  id: 'getSystemReport',
  tag: 'System reports',
  method: 'GET',
  path: '/sessions/{id}/system-reports/{reportId}',
  who: 'technician',
  params: OneReport,
  answer: z.object({ report: z.unknown() }),
  old: 'none',
});
export const earlierSystemReport = operation({
  id: 'findEarlierSystemReport',
  tag: 'System reports',
  method: 'GET',
  path: '/sessions/{id}/earlier-system-report',
  who: 'technician',
  params: OneSession,
  answer: FoundEarlierReport,
  old: 'none',
});
