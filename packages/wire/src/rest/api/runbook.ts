import { runbookKinds } from '@porch/core';
import { z } from 'zod';
import { operation, PageQuery, pageOf } from '../operation.ts';
import {
  ActionToRun,
  ChosenAction,
  ExportedPack,
  ImportedPack,
  NewRunbookAction,
  PackFiles,
  RunbookActionView,
  RunbookActionWhole,
  RunbookState,
} from '../runbook-schemas.ts';

const One = z.object({ id: z.uuid() });
const base = { tag: 'Runbook', who: 'technician', old: 'none' } as const;

export const runbookActions = operation({
  ...{ ...base, id: 'listRunbookActions', method: 'GET', path: '/runbook' },
  query: PageQuery.extend({
    words: z.string().max(200).optional(),
    name: z.string().max(80).optional(),
    topic: z.string().max(80).optional(),
    kind: z.enum(runbookKinds).optional(),
    state: RunbookState.optional(),
  }),
  answer: pageOf(RunbookActionView),
});
export const runbookAction = operation({
  ...{ ...base, id: 'getRunbookAction', method: 'GET', path: '/runbook/{id}' },
  params: One,
  answer: RunbookActionWhole,
});
export const writeRunbookAction = operation({
  ...{ ...base, id: 'writeRunbookAction', method: 'POST', path: '/runbook' },
  body: NewRunbookAction,
  answer: RunbookActionWhole,
  status: 201,
});
export const reviewRunbookAction = operation({
  ...{ ...base, id: 'reviewRunbookAction', method: 'POST', path: '/runbook/{id}/review' },
  params: One,
  answer: RunbookActionWhole,
});
export const approveRunbookAction = operation({
  ...{ ...base, id: 'approveRunbookAction', method: 'POST', path: '/runbook/{id}/approval' },
  params: One,
  answer: RunbookActionWhole,
});
export const withdrawRunbookAction = operation({
  ...{ ...base, id: 'withdrawRunbookAction', method: 'DELETE', path: '/runbook/{id}' },
  params: One,
});
export const importPack = operation({
  ...{ ...base, id: 'importPack', method: 'POST', path: '/runbook/packs' },
  body: PackFiles,
  answer: ImportedPack,
});
export const exportPack = operation({
  ...{ ...base, id: 'exportPack', method: 'GET', path: '/runbook/packs/current' },
  answer: ExportedPack,
});
export const chooseRunbookAction = operation({
  ...{ ...base, id: 'chooseRunbookAction', method: 'POST', path: '/sessions/{id}/runbook' },
  params: One,
  body: ChosenAction,
  answer: ActionToRun,
});
