import type { Clock } from '@porch/wire';

export interface TimeLimit {
  readonly signal: AbortSignal;
  /** It ended because it took too long. */
  readonly isLate: boolean;
  /** Once nothing waits for it any longer. */
  release(): void;
}

/** A signal that ends with another one, or after so long. */
export function timeLimit(time: Clock, ms: number, outer: AbortSignal): TimeLimit {
  const own = new AbortController();
  const end = () => own.abort();
  let isLate = false;
  const stopWaiting = time.after(ms, () => {
    isLate = !own.signal.aborted;
    end();
  });
  outer.addEventListener('abort', end, { once: true });
  if (outer.aborted) end();
  return {
    signal: own.signal,
    get isLate() {
      return isLate;
    },
    release: () => {
      stopWaiting();
      outer.removeEventListener('abort', end);
    },
  };
}
