import type { Participant, SessionState } from '@porch/core';

/** Whoever holds the consent just now, and so answers technicians' programs; undefined when nobody does. */
export const consentHolderOf = ({ holderId, participants }: SessionState): Participant | undefined =>
  holderId === undefined ? undefined : participants[holderId];
