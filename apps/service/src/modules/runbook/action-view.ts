import { readActionText, type RunbookAction } from '@porch/core';
import type { RunbookActionView, RunbookVersion } from '@porch/wire';
import { createHash } from 'node:crypto';
import type { z } from 'zod';
import type { RunbookActionRow } from './runbook-action-table.ts';

export const hashOf = (text: string): string => createHash('sha256').update(text, 'utf8').digest('hex');

/** Throws for a text that this program did not write. */
export function actionOf({ id, text }: Pick<RunbookActionRow, 'id' | 'text'>): RunbookAction {
  const action = readActionText(text);
  if (!action) throw new Error(`action ${id} of the runbook cannot be read`);
  return action;
}

type Whose = Pick<RunbookActionRow, 'authorName' | 'writtenAt' | 'reviewerName' | 'approverName'>;
const whoOf = ({ authorName, writtenAt, reviewerName, approverName }: Whose) => ({
  authorName,
  writtenAtMs: writtenAt.getTime(),
  ...(reviewerName === null ? {} : { reviewerName }),
  ...(approverName === null ? {} : { approverName }),
});
export const versionOf = (
  row: Whose & Pick<RunbookActionRow, 'version' | 'state'>,
): z.output<typeof RunbookVersion> => ({
  version: row.version,
  state: row.state,
  ...whoOf(row),
});

export function viewOf(row: RunbookActionRow): RunbookActionView {
  const { id, name, title, version, scope, team, authorId, state } = row;
  const { about, topic, kind, isRisky, rights } = actionOf(row);
  return {
    ...{ id, name, title, about, kind, isRisky, needsAdministrator: rights === 'administrator', version },
    ...(topic === undefined ? {} : { topic }),
    state: state === 'approved' || state === 'reviewed' ? state : 'draft',
    ...{ scope, team, authorId },
    ...whoOf(row),
  };
}
