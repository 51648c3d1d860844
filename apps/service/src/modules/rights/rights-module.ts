import { api } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { RightsKeys } from '../../auth/rights-keys.ts';
import { serve } from '../../http/serve.ts';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import { giveLeave, type LeaveParts } from './rights-leave.ts';

const rightsRoutes =
  (parts: LeaveParts): FastifyPluginAsyncZod =>
  async (app) => {
    serve(app, api.giveRightsLeave, { may: 'have administrator rights' }, ({ params, body, request }) =>
      giveLeave(personOf(request), params.id, body, parts),
    );
  };

/** Leave for administrator rights, where nobody at a computer has them. */
export const rightsModule = defineModule({
  name: 'rights',
  tables: [],
  build: ({ secrets, ...parts }: Pick<Kit, 'secrets'> & Omit<LeaveParts, 'keys'>) => {
    const keys = new RightsKeys(secrets.seeds('rights'));
    return { gives: { rightsKeys: keys }, routes: [{ plugin: rightsRoutes({ ...parts, keys }) }] };
  },
});
