import { api, MAX_PACK_FILES } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { serve } from '../../http/serve.ts';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import { choose, type ChoosingParts } from './choosing.ts';
import { PackSignature } from './pack-signature.ts';
import { Packs } from './packs.ts';
import { RunbookActionEntity } from './runbook-action-table.ts';
import { RunbookDesk } from './runbook-desk.ts';

/** All files of one pack, as JSON. */
const MAX_PACK_BYTES = MAX_PACK_FILES * 70_000;

const runbookRoutes =
  (desk: RunbookDesk, packs: Packs, parts: ChoosingParts): FastifyPluginAsyncZod =>
  async (app) => {
    const [read, write] = ['read the runbook', 'write a runbook action'] as const;
    serve(app, api.runbookActions, { may: read }, ({ query, request }) => desk.find(personOf(request), query));
    serve(app, api.runbookAction, { may: read }, ({ params, request }) => desk.read(personOf(request), params.id));
    serve(app, api.exportPack, { may: read }, async ({ request }) => ({
      files: await packs.takeOut(personOf(request)),
    }));
    serve(app, api.writeRunbookAction, { may: write }, ({ body, request }) => desk.write(personOf(request), body));
    serve(app, api.importPack, { may: write, bodyLimit: MAX_PACK_BYTES }, ({ body, request }) =>
      packs.bringIn(personOf(request), body.files, body.scope),
    );
    serve(app, api.reviewRunbookAction, { may: 'review a runbook action' }, ({ params, request }) =>
      desk.review(personOf(request), params.id),
    );
    serve(app, api.approveRunbookAction, { may: 'approve a runbook action' }, ({ params, request }) =>
      desk.approve(personOf(request), params.id),
    );
    serve(app, api.withdrawRunbookAction, { may: 'withdraw a runbook action' }, ({ params, request }) =>
      desk.withdraw(personOf(request), params.id),
    );
    serve(app, api.chooseRunbookAction, { may: read }, ({ params, body, request }) =>
      choose(personOf(request), params.id, body, desk, parts),
    );
  };

/** The desk's library of prepared actions. */
export const runbookModule = defineModule({
  name: 'runbook',
  tables: [RunbookActionEntity],
  build: ({ records, secrets, ...parts }: Pick<Kit, 'records' | 'secrets'> & ChoosingParts) => {
    const desk = new RunbookDesk(records);
    const packs = new Packs(desk, new PackSignature(secrets.seeds('packs')));
    return { gives: {}, routes: [{ plugin: runbookRoutes(desk, packs, parts) }] };
  },
});
