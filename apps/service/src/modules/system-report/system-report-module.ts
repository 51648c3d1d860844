import { api, MAX_REPORT_BYTES } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { SealedAnew } from '../../db/sealed-anew.ts';
import { pageOfList } from '../../http/paging.ts';
import { serve } from '../../http/serve.ts';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import type { SessionDesk } from '../sessions/session-desk.ts';
import { SystemReportDesk } from './system-report-desk.ts';
import { SystemReportEntity } from './system-report-table.ts';

const SEALING_PAUSE_MS = 2_000;

interface Needs extends Pick<Kit, 'records' | 'secrets'> {
  readonly book: SessionBook;
  readonly desk: SessionDesk;
}

/** System reports of a session, for those who may read it. */
const systemReportRoutes =
  (desk: SessionDesk, reports: SystemReportDesk): FastifyPluginAsyncZod =>
  async (app) => {
    const may = 'read a session';
    serve(app, api.keepSystemReport, { may, bodyLimit: 2 * MAX_REPORT_BYTES }, async ({ params, body, request }) => {
      const me = personOf(request);
      const { id } = await desk.read(me, params.id);
      return reports.keep(me.id, id, params.reportId, body.report);
    });
    serve(app, api.systemReports, { may }, async ({ params, query, request }) => {
      const { id } = await desk.read(personOf(request), params.id);
      return pageOfList(await reports.list(id), query, `system reports of ${id}`, (one) => [
        one.keptAtMs,
        one.reportId,
      ]);
    });
    serve(app, api.systemReport, { may }, async ({ params, request }) => {
      const { id } = await desk.read(personOf(request), params.id);
      return { report: await reports.read(id, params.reportId) };
    });
    serve(app, api.earlierSystemReport, { may }, async ({ params, request }) => {
      const { id } = await desk.read(personOf(request), params.id);
      const found = await reports.earlier(id);
      return found ? { found } : {};
    });
  };

/** What computers said of themselves, in the records of their sessions. */
export const systemReportModule = defineModule({
  name: 'system-report',
  tables: [SystemReportEntity],
  build: ({ records, secrets, book, desk }: Needs) => {
    const reports = new SystemReportDesk(records, book, secrets);
    const anew = new SealedAnew(records, SystemReportEntity, secrets);
    return {
      gives: {},
      routes: [{ plugin: systemReportRoutes(desk, reports) }],
      erase: (tx, sessionId) => reports.erase(tx, sessionId),
      repeated: [
        {
          what: 'sealing system reports anew',
          isShared: true,
          pauseMs: SEALING_PAUSE_MS,
          work: () => anew.round(),
        },
      ],
    };
  },
});
