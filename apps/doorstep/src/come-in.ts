import { Unreachable, type RestClient } from '@porch/client';
import { AppError, type DoorView } from '@porch/wire';
import type { Logger } from 'pino';

/** What lets us in: the token of a link, the digits of a code, or what a knock at a waiting device brought. */
export type ComingIn = { link: string } | { code: string; secondNumber?: string } | { token: string };

/** A service that restarts, or has lost its records for a moment, is back by then; who opened us waits no longer. */
const COME_IN_PATIENCE_MS = 90_000;
const RETRY_FIRST_MS = 250;
const RETRY_LAST_MS = 4_000;

/** Whether the same may go well in a moment: nobody answered, or it was the service's own trouble. */
export const passesBy = (error: unknown): boolean =>
  error instanceof Unreachable || (error instanceof AppError && error.spec.status >= 500);

/** Comes in, and tries again while that may help. Throws what stood in the way at last. */
export async function comeIn(
  rest: RestClient,
  by: ComingIn,
  log: Logger,
  signal: AbortSignal,
  patienceMs = COME_IN_PATIENCE_MS,
): Promise<DoorView> {
  const giveUpAtMs = performance.now() + patienceMs;
  for (let waitMs = RETRY_FIRST_MS; ; waitMs = Math.min(2 * waitMs, RETRY_LAST_MS))
    try {
      if ('token' in by) {
        rest.token = by.token;
        return await rest.door();
      }
      const { token, door } = await rest.join({ ...by, as: 'doorstep' });
      rest.token = token;
      return door;
    } catch (error) {
      if (!passesBy(error) || signal.aborted || performance.now() + waitMs > giveUpAtMs) throw error;
      log.warn({ why: String(error) }, 'the service does not let us in yet; trying again');
      await new Promise((resolve) => setTimeout(resolve, waitMs * (0.75 + Math.random() / 2)));
    }
}
