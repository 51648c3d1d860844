import { isHolderThere } from './holder-there.ts';
import type { LiveConnection } from './live/live-connection.ts';

/** Looks after each change, while the line stands and whoever holds the consent is there. Hands back what ends it. */
export function whileHolderIsThere(connection: LiveConnection, look: () => void): () => void {
  const lookIfThere = () => {
    if (connection.status === 'live' && isHolderThere(connection)) look();
  };
  const offs = (['entry', 'caughtUp', 'presence'] as const).map((what) => connection.on(what, lookIfThere));
  return () => offs.forEach((off) => off());
}
