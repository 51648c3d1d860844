/** Somebody who may look at what is shown, and the displays of it that they look at. */
export interface Watcher {
  readonly seat: number;
  /** Their key and which start of their program, as `startOf` joins them: one that starts again is a newcomer. */
  readonly start: string;
  readonly displays: readonly number[];
}
