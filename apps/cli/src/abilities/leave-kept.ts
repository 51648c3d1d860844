import { leaveStanding } from '@porch/client';
import type { KeeperKit } from './cli-ability.ts';

/** Somebody else has to see it, and decide. */
const SECOND_PERSON_MS = 10 * 60_000;

/** Resolves with what the desk says to an act that leave was asked for; a second person is waited for. */
export async function awaitLeave(
  kit: KeeperKit,
  actId: string,
): Promise<{ standing: NonNullable<ReturnType<typeof leaveStanding>> }> {
  const standing = () => leaveStanding(kit.connection.state, actId);
  await kit.until(() => standing() === 'cleared' || standing() === 'refused', SECOND_PERSON_MS);
  return { standing: standing() ?? 'waits' };
}
