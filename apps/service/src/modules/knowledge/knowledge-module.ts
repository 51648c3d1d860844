import { api, MAX_IMPORTED_NOTES } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { serve } from '../../http/serve.ts';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import type { Technicians } from '../people/technician.ts';
import { KnowledgeDesk } from './knowledge-desk.ts';
import { KnowledgeNoteEntity } from './knowledge-note-table.ts';
import { NoteFinder } from './note-finder.ts';

interface Needs extends Pick<Kit, 'records'> {
  readonly technicians: Technicians;
}
/** All files of one import, as JSON. */
const MAX_IMPORT_BYTES = MAX_IMPORTED_NOTES * 45_000;

const knowledgeRoutes =
  (desk: KnowledgeDesk, finder: NoteFinder): FastifyPluginAsyncZod =>
  async (app) => {
    const [read, write] = ['read knowledge notes', 'write a knowledge note'] as const;
    serve(app, api.knowledgeNotes, { may: read }, ({ query }) => finder.find(query));
    serve(app, api.knowledgeNote, { may: read }, ({ params }) => desk.read(params.id));
    serve(app, api.exportKnowledgeNotes, { may: read }, async () => ({ files: await desk.takeOut() }));
    serve(app, api.writeKnowledgeNote, { may: write }, ({ body: { basedOn, ...note }, request }) =>
      desk.write(personOf(request), note, basedOn),
    );
    serve(app, api.importKnowledgeNotes, { may: write, bodyLimit: MAX_IMPORT_BYTES }, async ({ body, request }) => ({
      items: await desk.bringIn(personOf(request), body.files),
    }));
    serve(app, api.reviewKnowledgeNote, { may: 'review a knowledge note' }, ({ params, request }) =>
      desk.review(personOf(request), params.id),
    );
    serve(app, api.withdrawKnowledgeNote, { may: 'withdraw a knowledge note' }, ({ params, request }) =>
      desk.withdraw(personOf(request), params.id),
    );
  };

/** What the desk wrote down about faults. */
export const knowledgeModule = defineModule({
  name: 'knowledge',
  tables: [KnowledgeNoteEntity],
  build: ({ records, technicians }: Needs) => {
    const noteFinder = new NoteFinder(records);
    return {
      gives: { noteFinder },
      routes: [{ plugin: knowledgeRoutes(new KnowledgeDesk(records, technicians), noteFinder) }],
    };
  },
});
