import { filledIn, type Participant, type RunbookAction, type RunbookValues } from '@porch/core';
import type { Kit } from '../../kit.ts';
import { ADMINISTRATORS_FOLDER, type RunbookPort, type ScriptEnded } from '../../ports/runbook-port.ts';
import { isRaised, scriptOf } from './run-rules.ts';

const MAX_COMMAND_CHARS = 400;
const MAX_PLACE_CHARS = 1_000;

/** An action with its values. */
interface Filled {
  readonly runId: string;
  readonly action: RunbookAction;
  readonly values: RunbookValues;
}

/** Exactly what would be done, as technicians read it. Rejects with RunRefused. */
export async function howDone(port: RunbookPort, { runId, action, values }: Filled) {
  if (action.target !== undefined) {
    const { path, isThere } = await port.whereTo(action.target);
    return { command: [], place: path.slice(0, MAX_PLACE_CHARS), ...(isThere ? { isReplacing: true as const } : {}) };
  }
  const { command, folder, mayGoOn } = await port.howRun(scriptOf(runId, action, values));
  return {
    command: command.map((part) => part.slice(0, MAX_COMMAND_CHARS)),
    place: (isRaised(action) ? ADMINISTRATORS_FOLDER : folder).slice(0, MAX_PLACE_CHARS),
    ...(isRaised(action) ? { isRaised: true as const } : {}),
    ...(mayGoOn ? { mayGoOn: true as const } : {}),
  };
}

/** Does it, as the person here or by the rights that are raised. Once it is over. */
export async function carryOut(
  kit: Kit,
  port: RunbookPort,
  {
    from,
    text,
    signature,
    ...filled
  }: Filled & { readonly from: Participant; readonly text: string; readonly signature: string | undefined },
  how: { may(): boolean; print(text: string): void; readonly signal: AbortSignal },
): Promise<ScriptEnded> {
  const { runId, action, values } = filled;
  const { may, print, signal } = how;
  if (isRaised(action)) {
    const { warrant } = kit.connection.state.slices.runbook[runId] ?? {};
    // They may have fallen back in this very moment.
    const raised = kit.shared.raisedFor(from.signKey);
    return (
      raised?.run({ runId, text, values, warrant, signature }, action.title, how) ?? { code: undefined, mayGoOn: false }
    );
  }
  if (action.target === undefined) return port.run(scriptOf(runId, action, values), may, print, signal);
  await port.put(action.target, filledIn(action.body, values), may, signal);
  return { code: 0, mayGoOn: false };
}
