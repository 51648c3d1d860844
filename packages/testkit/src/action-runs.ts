import type { LookedAt, RunNow, TechnicianRunbook } from '@porch/client';
import type { RunbookValues } from '@porch/core';
import type { ActionToWrite, runbookInUse } from './runbook-in-use.ts';
import { until } from './until.ts';

/** Actions that are written, approved and run at once by a technician. */
export function actionRuns(runbook: TechnicianRunbook, inUse: Awaited<ReturnType<typeof runbookInUse>>) {
  const look = async (action: ActionToWrite, values: RunbookValues = {}): Promise<LookedAt> => {
    const { id, title } = await inUse(action);
    return runbook.look(id, { title }, values);
  };
  /** Runs it, and answers with a word on how it stands. */
  const begin = async (action: ActionToWrite, values: RunbookValues = {}) => {
    const looked = await look(action, values);
    const told: { now: RunNow } = { now: { text: '', isCut: false } };
    runbook.run(looked, (next) => (told.now = next));
    return {
      looked,
      now: () => told.now,
      says: (words: string) => until(`it to say ${words}`, () => told.now.text.includes(words)),
      end: () =>
        until('its end', () => ((told.now.ended ?? told.now.refused) ? told.now : undefined)).then(
          ({ text, ended, refused }) => ({ text, ...ended, ...(refused ? { refused } : {}) }),
        ),
    };
  };
  const run = async (action: ActionToWrite, values: RunbookValues = {}) => (await begin(action, values)).end();
  return { look, begin, run };
}
