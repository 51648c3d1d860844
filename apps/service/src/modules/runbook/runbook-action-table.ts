import type { RunbookKind } from '@porch/core';
import type { RunbookScope, RunbookState } from '@porch/wire';
import { EntitySchema } from 'typeorm';

/** One version of an action of the runbook. */
export interface RunbookActionRow {
  id: string;
  /** Within which its name means one action: the desk, a team, or a person. */
  owner: string;
  name: string;
  version: number;
  /** At most one that is not approved yet, and one that is; the others are as they were. */
  state: RunbookState | 'replaced' | 'withdrawn';
  scope: RunbookScope;
  /** Of whoever wrote it first. */
  team: string;
  title: string;
  topic: string | null;
  kind: RunbookKind;
  /** The action whole, as the text that is hashed and run. */
  text: string;
  /** By which it is found: words without accents, with a space before each. */
  words: string;
  authorId: string;
  authorName: string;
  writtenAt: Date;
  reviewerName: string | null;
  approverName: string | null;
}
export const RunbookActionEntity = new EntitySchema<RunbookActionRow>({
  name: 'runbook_action',
  columns: {
    id: { type: 'uuid', primary: true },
    owner: { type: 'text' },
    name: { type: 'text' },
    version: { type: 'int' },
    state: { type: 'text' },
    scope: { type: 'text' },
    team: { type: 'text' },
    title: { type: 'text' },
    topic: { type: 'text', nullable: true },
    kind: { type: 'text' },
    text: { type: 'text' },
    words: { type: 'text' },
    authorId: { type: 'text', name: 'author_id' },
    authorName: { type: 'text', name: 'author_name' },
    writtenAt: { type: 'timestamptz', name: 'written_at' },
    reviewerName: { type: 'text', name: 'reviewer_name', nullable: true },
    approverName: { type: 'text', name: 'approver_name', nullable: true },
  },
  indices: [
    { name: 'runbook_action_version', columns: ['owner', 'name', 'version'], unique: true },
    // Of some rows: this the migrations alone can say.
    { name: 'runbook_action_current', synchronize: false },
  ],
});
