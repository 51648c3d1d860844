/** What a session's keys are kept under in this tab, before its id. */
export const KEPT_KEYS = 'porch-keys-';

/** At the end of the session, and when the tab gives it up. */
export function forgetKeys(sessionId: string): void {
  sessionStorage.removeItem(KEPT_KEYS + sessionId);
}

/** At signing out: nothing of any session stays in this tab. */
export function forgetAllKeys(): void {
  for (const name of Object.keys(sessionStorage)) if (name.startsWith(KEPT_KEYS)) sessionStorage.removeItem(name);
}
