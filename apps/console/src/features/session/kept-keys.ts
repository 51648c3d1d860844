import { keepKeys, makeKeys, startAgainWith, type ParticipantKeys } from '@porch/wire';
import { z } from 'zod';
import { KEPT_KEYS as PREFIX } from './forget-keys.ts';

const hex = z.string().regex(/^[0-9a-f]{64}$/);
const Kept = z.object({ signSecret: hex, agreeSecret: hex });
/** A page that is going gives up its lock within this; a tab that stays keeps it. */
const LOCK_MS = 600;

/**
 * This tab's pairs for one session. They live as long as the tab: a reload is the same participant, with what was allowed,
 * and a start of its own. A tab that was duplicated has a copy of what was kept, but not the lock: it becomes somebody new.
 */
export async function keysOfTab(sessionId: string): Promise<ParticipantKeys> {
  // Without locks, on a page that did not come over TLS, nobody could tell a reload from a duplicate.
  if (!('locks' in navigator)) return makeKeys();
  const kept = readKept(sessionId);
  if (kept && (await hasLock(kept.signKey))) return kept;
  const keys = makeKeys();
  sessionStorage.setItem(PREFIX + sessionId, JSON.stringify(keepKeys(keys)));
  await hasLock(keys.signKey);
  return keys;
}

function readKept(sessionId: string): ParticipantKeys | undefined {
  const text = sessionStorage.getItem(PREFIX + sessionId);
  if (text === null) return undefined;
  try {
    return startAgainWith(Kept.parse(JSON.parse(text)));
  } catch {
    return undefined; // Something else wrote there: these are no pairs of ours.
  }
}

/** Takes the lock of these keys until the tab goes; false when another tab has it. */
function hasLock(signKey: string): Promise<boolean> {
  return new Promise((resolve) => {
    navigator.locks
      .request(PREFIX + signKey, { signal: AbortSignal.timeout(LOCK_MS) }, () => {
        resolve(true);
        // Held for as long as the page lives.
        return new Promise<never>(() => undefined);
      })
      .catch(() => resolve(false));
  });
}
