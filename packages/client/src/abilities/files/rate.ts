import type { FileProgress } from './file-ends.ts';

/** What is older says nothing of now. */
const MEMORY_MS = 5_000;
/** A shorter time measures how pieces happen to come. */
const LEAST_MS = 500;
/** Time left beyond a day is a guess. */
const LONGEST_LEFT_MS = 24 * 60 * 60_000;

/** How fast one file moves, over the last seconds. */
export class MovedRate {
  readonly #samples: { readonly atMs: number; readonly bytes: number }[] = [];

  /** It waits, or goes on from somewhere else: what was before says nothing. */
  forget(): void {
    this.#samples.length = 0;
  }

  progress(fileId: string, movedBytes: number, sizeBytes: number, nowMs: number): FileProgress {
    while (this.#samples[1] && nowMs - this.#samples[1].atMs > MEMORY_MS) this.#samples.shift();
    const last = this.#samples.at(-1);
    if (!last || nowMs - last.atMs >= LEAST_MS / 5) this.#samples.push({ atMs: nowMs, bytes: movedBytes });
    const first = this.#samples[0];
    const spanMs = first ? nowMs - first.atMs : 0;
    const bytesPerSecond =
      first && spanMs >= LEAST_MS ? Math.max(0, ((movedBytes - first.bytes) * 1_000) / spanMs) : undefined;
    const leftMs = bytesPerSecond ? ((sizeBytes - movedBytes) * 1_000) / bytesPerSecond : undefined;
    return {
      ...{ fileId, movedBytes, sizeBytes, bytesPerSecond },
      leftMs: leftMs !== undefined && leftMs < LONGEST_LEFT_MS ? leftMs : undefined,
    };
  }
}
