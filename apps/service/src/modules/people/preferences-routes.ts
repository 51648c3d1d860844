import { firstPreferences, Preferences } from '@porch/core';
import { api } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import type { DataSource } from 'typeorm';
import { personOf } from '../../auth/guard.ts';
import { inTransaction } from '../../db/data-source.ts';
import { serve } from '../../http/serve.ts';
import { PreferencesEntity } from './people-tables.ts';

/** What technicians choose for themselves alone, wherever they sign in. */
export const preferencesRoutes =
  (records: DataSource): FastifyPluginAsyncZod =>
  async (app) => {
    serve(app, api.preferences, { may: 'choose what suits them' }, async ({ request }) => {
      const technicianId = personOf(request).id;
      const row = await inTransaction(records, (tx) => tx.findOneBy(PreferencesEntity, { technicianId }));
      // What a later release wrote is not understood here; nobody is kept from their work by it.
      return Preferences.safeParse(row?.preferences).data ?? firstPreferences;
    });
    serve(app, api.setPreferences, { may: 'choose what suits them' }, async ({ body, request }) => {
      const technicianId = personOf(request).id;
      await inTransaction(records, (tx) =>
        tx.upsert(PreferencesEntity, { technicianId, preferences: body, at: new Date() }, ['technicianId']),
      );
      return body;
    });
  };
