import { samplesIn } from '@porch/sound';
import type { Clock } from '@porch/wire';

const STEP_MS = 10;
/** After a pause of the whole program there is nothing to catch up with. */
const MOST_STEPS = 10;

/** Says each 10 ms that 10 ms have passed, on the whole exactly. */
export function everyTenMs(clock: Clock, step: (samples: number) => void): () => void {
  let dueAtMs = clock.nowMs() + STEP_MS;
  return clock.every(STEP_MS, () => {
    const nowMs = clock.nowMs();
    if (nowMs - dueAtMs > MOST_STEPS * STEP_MS) dueAtMs = nowMs;
    for (; dueAtMs <= nowMs; dueAtMs += STEP_MS) step(samplesIn(STEP_MS));
  });
}
