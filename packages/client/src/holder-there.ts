import type { LiveConnection } from './live/live-connection.ts';

/** Whether whoever holds the consent is connected just now. */
export const isHolderThere = ({ state, presence }: Pick<LiveConnection, 'state' | 'presence'>): boolean =>
  presence.some((row) => row.participantId === state.holderId && row.isConnected);
