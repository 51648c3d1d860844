import type { DataSource } from 'typeorm';
import { makeDataSource, serviceWaits } from '../db/data-source.ts';
import { OwnerEntity } from '../db/owner-table.ts';
import { WebhookEntity } from '../http/webhook-table.ts';
import { RoundEntity } from '../module/round-table.ts';
import { modules } from './index.ts';

/** The records with the tables of all modules, and those that belong to none. */
export const makeRecords = (url: string, onPoolError: (error: Error) => void, waits = serviceWaits): DataSource =>
  makeDataSource(
    url,
    [OwnerEntity, WebhookEntity, RoundEntity, ...modules.flatMap(({ tables }) => tables ?? [])],
    onPoolError,
    waits,
  );
