import { fetchExchange, RestClient, safeAddress } from '@porch/client';
import type { RestartStep } from '@porch/core';
import { passesBy } from '../come-in.ts';
import { withLogind, type Logind } from '../system/logind.ts';
import { readNotes, type ReturnNote } from './return-note.ts';

/** Nobody waits longer for somebody who signs in. */
const MOST_MS = 15 * 60_000;
const LOOK_MS = 400;
const TRY_AGAIN_MS = 1_000;

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

/** Tells how far the computer is until somebody has signed in. Ends when nobody wants to know any longer. */
export async function tellSteps(stateFolder: string): Promise<void> {
  const giveUpAtMs = Date.now() + MOST_MS;
  const [note] = readNotes(stateFolder);
  if (!note) return;
  const rest = new RestClient(fetchExchange(safeAddress(note.serviceUrl)));
  rest.token = note.token;
  if (note.how !== 'sign-out' && !(await tell(rest, 'starting', giveUpAtMs))) return;
  await withLogind(async (logind) => {
    while (Date.now() < giveUpAtMs && isWanted(stateFolder, note)) {
      const where = await whereItIs(logind);
      if (where === 'signed-in') return;
      if (where === 'at-sign-in') {
        await tell(rest, 'at-sign-in', giveUpAtMs);
        return;
      }
      await pause(LOOK_MS);
    }
  });
}

const isWanted = (stateFolder: string, { sessionId }: ReturnNote): boolean =>
  readNotes(stateFolder).some((one) => one.sessionId === sessionId);

async function whereItIs(logind: Logind): Promise<'signed-in' | 'at-sign-in' | 'on-its-way'> {
  const uid = process.getuid?.() ?? -1;
  let isGreeted = false;
  for (const session of await logind.sessions()) {
    const [kind, state] = [await logind.about(session, 'Class'), await logind.about(session, 'State')];
    const type = await logind.about(session, 'Type');
    if (state === 'closing') continue;
    if (session.uid === uid && kind === 'user' && (type === 'x11' || type === 'wayland')) return 'signed-in';
    isGreeted ||= kind === 'greeter';
  }
  return isGreeted ? 'at-sign-in' : 'on-its-way';
}

/** Until the service has it. False when it does not want it. */
async function tell(rest: RestClient, step: RestartStep, giveUpAtMs: number): Promise<boolean> {
  for (;;)
    try {
      await rest.tellStep(step);
      return true;
    } catch (error) {
      if (!passesBy(error) || Date.now() > giveUpAtMs) return false;
      await pause(TRY_AGAIN_MS);
    }
}
