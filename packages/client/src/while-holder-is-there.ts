import type { LiveConnection } from './live/live-connection.ts';

/** Looks after each change, while the line stands and whoever holds the consent is there. Hands back what ends it. */
export function whileHolderIsThere(connection: LiveConnection, look: () => void): () => void {
  const lookIfThere = () => {
    const { state, presence, status } = connection;
    const isThere = presence.some((row) => row.participantId === state.holderId && row.isConnected);
    if (status === 'live' && isThere) look();
  };
  const offs = (['entry', 'caughtUp', 'presence'] as const).map((what) => connection.on(what, lookIfThere));
  return () => offs.forEach((off) => off());
}
