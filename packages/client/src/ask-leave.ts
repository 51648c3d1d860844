import type { SessionState } from '@porch/core';
import type { LiveConnection } from './live/live-connection.ts';

/** Asks the desk for leave to do one act on such a device; `reason`: outside of the hours for it. Throws what the service refuses. */
export async function askLeave(
  connection: LiveConnection,
  act: { readonly actId: string; readonly act: string; readonly name: string },
  reason?: string,
): Promise<void> {
  await connection.command({ type: 'risky-acts/ask', ...act, reason: reason?.trim() ? reason.trim() : undefined });
}

/** How the desk's leave for an act stands; undefined while nobody asked for it. */
export const leaveStanding = ({ slices }: SessionState, actId: string): 'waits' | 'cleared' | 'refused' | undefined =>
  slices['risky-acts'][actId]?.standing;
