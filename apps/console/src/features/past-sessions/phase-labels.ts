import type { SessionView } from '@porch/wire';

/** Where a session is, for whoever looks for it. */
export const phaseLabels: Readonly<Record<SessionView['phase'], string>> = {
  prepared: 'Prepared',
  joining: 'Coming in',
  live: 'Under way',
  ended: 'Ended, no outcome yet',
  logged: 'With an outcome',
};
