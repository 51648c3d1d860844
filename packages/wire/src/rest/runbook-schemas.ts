import { RunbookAction, RunbookName, runbookKinds, runbookFaults } from '@porch/core';
import { z } from 'zod';
import { Moment } from './moment.ts';

/* The desk's library of actions that are prepared to be run at customers' computers. */

/** Files of a pack that are brought in at once. */
export const MAX_PACK_FILES = 200;
const MAX_PACK_FILE_CHARACTERS = 60_000;
/** Older versions than these are not listed. */
export const MAX_LISTED_VERSIONS = 50;

/** Whose an action is: its author's own, their team's, or the whole desk's. */
export const runbookScopes = ['personal', 'team', 'desk'] as const;
export const RunbookScope = z.enum(runbookScopes);
export type RunbookScope = z.output<typeof RunbookScope>;

/** A draft is read by somebody else, then approved by a lead; only then it is in use. */
export const runbookStates = ['draft', 'reviewed', 'approved'] as const;
export const RunbookState = z.enum(runbookStates);
export type RunbookState = z.output<typeof RunbookState>;

/** With the version that whoever writes has seen; another one since is ACTION_CHANGED. */
export const NewRunbookAction = z.strictObject({
  action: RunbookAction,
  scope: RunbookScope,
  basedOn: z.uuid().optional(),
});

const Who = {
  authorName: z.string(),
  writtenAtMs: Moment,
  reviewerName: z.string().optional(),
  approverName: z.string().optional(),
};

export const RunbookActionView = z.object({
  /** Of this version. */
  id: z.uuid(),
  name: RunbookName,
  title: z.string(),
  about: z.string(),
  topic: z.string().optional(),
  kind: z.enum(runbookKinds),
  isRisky: z.boolean(),
  needsAdministrator: z.boolean(),
  version: z.number(),
  state: RunbookState,
  scope: RunbookScope,
  /** Of whoever wrote it. */
  team: z.string(),
  authorId: z.string(),
  ...Who,
});
export type RunbookActionView = z.output<typeof RunbookActionView>;

export const RunbookVersion = z.object({
  version: z.number(),
  state: z.enum([...runbookStates, 'replaced', 'withdrawn']),
  ...Who,
});
export const RunbookActionWhole = RunbookActionView.extend({
  action: RunbookAction,
  /** SHA-256 of the action as text, which is what is run. */
  hash: z.string(),
  /** The newest first. */
  versions: z.array(RunbookVersion),
});
export type RunbookActionWhole = z.output<typeof RunbookActionWhole>;

/** A file of a pack: an action (front matter in YAML, then its script or text), or what signs them all. */
export const PackFile = z.strictObject({ name: z.string().max(200), text: z.string().max(MAX_PACK_FILE_CHARACTERS) });
export type PackFile = z.output<typeof PackFile>;
export const PackFiles = z.strictObject({ files: z.array(PackFile).min(1).max(MAX_PACK_FILES), scope: RunbookScope });
export const ExportedPack = z.object({ files: z.array(PackFile) });
export const ImportedAction = z.object({
  file: z.string(),
  result: z.enum(['drafted', 'unchanged', 'refused']),
  /** Of the draft. */
  id: z.uuid().optional(),
  why: z.enum(['name', 'front-matter', 'not-signed', 'draft-open', 'too-many', ...runbookFaults]).optional(),
});
export type ImportedAction = z.output<typeof ImportedAction>;
/** Who signed a pack: nobody, this desk, or somebody with another key, whose SHA-256 is there to be compared. */
export const PackSigner = z.object({ who: z.enum(['nobody', 'this-desk', 'somebody']), key: z.string().optional() });
export type PackSigner = z.output<typeof PackSigner>;
export const ImportedPack = z.object({ signer: PackSigner, items: z.array(ImportedAction) });

/** A technician chooses an action for a session: the service says in the ledger which very text may be run. */
export const ChosenAction = z.strictObject({ runId: z.uuid(), actionId: z.uuid(), participantId: z.uuid() });
export const ActionToRun = z.object({ runId: z.uuid(), text: z.string() });
