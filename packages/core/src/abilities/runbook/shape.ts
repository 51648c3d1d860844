import { z } from 'zod';
import type { LedgerWords } from '@porch/words/ledger/shape';
import { defineShape } from '../../ability/ability-shape.ts';
import { endsWithLeave } from '../../ability/ends-with-leave.ts';
import { count, fact, id, sha256 } from '../../ability/fields.ts';
import { RunOutcome, runbookKinds, type RunbookKind } from './action.ts';

/** So much of what a script prints stands in one entry. */
export const MAX_SAID_CHARACTERS = 3_000;

export interface RunInSession {
  readonly byId: string;
  readonly actionId: string;
  readonly title: string;
  readonly version: number;
  readonly kind: RunbookKind;
  /** SHA-256 of the very text that may be run. */
  readonly hash: string;
  readonly isDraft: boolean;
  readonly warrant?: string | undefined;
  readonly standing: 'chosen' | 'running' | 'over';
  readonly outcome: RunOutcome | undefined;
  /** Of an instruction: how many steps it has, and which of them are done. */
  readonly steps: number;
  readonly ticked: readonly number[];
}
export type RunbookSlice = Readonly<Record<string, RunInSession>>;

type Words = LedgerWords['runbook'];
const titleOf = (s: RunbookSlice, runId: string): string => s[runId]?.title ?? '…';
const changed = (s: RunbookSlice, runId: string, change: Partial<RunInSession>): RunbookSlice => {
  const known = s[runId];
  return known ? { ...s, [runId]: { ...known, ...change } } : s;
};

interface Ended {
  readonly runId: string;
  readonly outcome: RunOutcome;
  readonly code?: number | undefined;
  readonly mayGoOn?: true | undefined;
}
function endedInWords(e: Ended, { ended, mayGoOn }: Words, s: RunbookSlice): string {
  const title = titleOf(s, e.runId);
  const what =
    e.outcome === 'failed' && e.code !== undefined
      ? ended.code({ title, code: String(e.code) })
      : ended[e.outcome]({ title });
  return e.mayGoOn ? mayGoOn({ what }) : what;
}
interface Begun {
  readonly runId: string;
  readonly personal?: { readonly given: string } | undefined;
}
function begunInWords(e: Begun, who: string, words: Words, s: RunbookSlice): string {
  const how = { who, title: titleOf(s, e.runId), given: e.personal?.given ?? '' };
  return how.given ? words.begunWith[kindOf(s, e.runId)](how) : words.begun[kindOf(s, e.runId)](how);
}
const kindOf = (s: RunbookSlice, runId: string): 'script' | 'file' => (s[runId]?.kind === 'file' ? 'file' : 'script');

/** Whether it may still be said how it ended. */
export const mayEnd = (run: RunInSession | undefined): boolean =>
  run?.standing === 'running' || (run?.standing === 'over' && run.outcome === undefined);

/** Actions that the desk prepared: chosen, run at the customer's computer, ticked off. */
export const runbook = defineShape({
  name: 'runbook',
  version: 1,
  since: 4,
  permissions: { 'run-runbook': { shortName: 'runbook', restsInPrivate: true } },
  events: {
    /** The service says that this very text may be run by this participant: it is approved, or a draft of their own. */
    'runbook/chosen': {
      ...{ runId: id, actionId: id, participantId: id, title: z.string().max(80), version: count },
      ...{ kind: z.enum(runbookKinds), hash: sha256, steps: count, isDraft: z.literal(true).optional() },
      /** Of what needs administrator rights: the desk's signature, by which the computer knows that it is approved. */
      warrant: z
        .string()
        .regex(/^[0-9a-f]{128}$/)
        .optional(),
    },
    /** The customer's side begins. What was given for its parameters stands there, but for secrets. */
    'runbook/begun': {
      ...{ runId: id, participantId: id, fact },
      personal: z.strictObject({ given: z.string().max(800) }).optional(),
    },
    /** What it printed meanwhile. */
    'runbook/said': {
      ...{ runId: id, fact },
      personal: z.strictObject({ text: z.string().max(MAX_SAID_CHARACTERS) }).optional(),
    },
    'runbook/ended': {
      ...{ runId: id, outcome: RunOutcome, code: z.int().optional(), fact },
      /** Characters that it printed and that stand in no entry. */
      unsaid: count,
      /** Something that it began could not be ended, or cannot be known to have ended. */
      mayGoOn: z.literal(true).optional(),
    },
    /** Somebody did a step of an instruction, or not after all. */
    'runbook/ticked': { runId: id, step: count, isDone: z.boolean() },
  },
  initial: {} as RunbookSlice,
  evolve: {
    'runbook/chosen': (
      s,
      { runId, participantId, actionId, title, version, kind, hash, steps, isDraft, warrant },
    ): RunbookSlice => ({
      [runId]: {
        ...{ byId: participantId, actionId, title, version, kind, hash, steps, isDraft: isDraft === true, warrant },
        ...{ standing: 'chosen', outcome: undefined, ticked: [] },
      },
      ...s,
    }),
    'runbook/begun': (s, { runId }) => changed(s, runId, { standing: 'running' }),
    'runbook/ended': (s, { runId, outcome }) => changed(s, runId, { standing: 'over', outcome }),
    'runbook/ticked': (s, { runId, step, isDone }) => {
      const others = (s[runId]?.ticked ?? []).filter((one) => one !== step);
      return changed(s, runId, { ticked: isDone ? [...others, step] : others });
    },
  },
  ...endsWithLeave<RunInSession>('run-runbook', (run) =>
    run.standing === 'running' ? { ...run, standing: 'over' } : run,
  ),
  words: (book) => book.runbook,
  tell: {
    'runbook/chosen': {
      technician: (e, { words, nameOf }) =>
        words[e.isDraft ? 'chosenDraft' : 'chosen']({
          who: nameOf(e.participantId),
          title: e.title,
          version: String(e.version),
        }),
      customer: (e, { words, technician }) => words.chosenForYou({ who: technician(e.participantId), title: e.title }),
    },
    'runbook/begun': {
      technician: (e, { words, nameOf }, s) => begunInWords(e, nameOf(e.participantId), words, s),
      customer: (e, { words, technician }, s) => begunInWords(e, technician(e.participantId), words, s),
    },
    'runbook/said': {
      technician: (e, { words }, s) => words.said({ title: titleOf(s, e.runId), text: e.personal?.text ?? '…' }),
      customer: (e, { words }, s) => words.said({ title: titleOf(s, e.runId), text: e.personal?.text ?? '…' }),
    },
    'runbook/ended': {
      technician: (e, { words }, s) => endedInWords(e, words, s),
      customer: (e, { words }, s) => endedInWords(e, words, s),
    },
    'runbook/ticked': {
      technician: (e, { words, nameOf }, s) => tickedInWords(e, nameOf(e.by), words, s),
      customer: (e, { words, technician }, s) => tickedInWords(e, technician(e.by), words, s),
    },
  },
  inStory: ['runbook/begun', 'runbook/ended'],
});

function tickedInWords(
  e: { readonly runId: string; readonly step: number; readonly isDone: boolean },
  who: string,
  { ticked, unticked }: Words,
  s: RunbookSlice,
): string {
  const what = { who, title: titleOf(s, e.runId), step: String(e.step + 1), steps: String(s[e.runId]?.steps ?? 0) };
  return (e.isDone ? ticked : unticked)(what);
}
