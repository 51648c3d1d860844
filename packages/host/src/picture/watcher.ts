import type { EpochViewer } from './epoch-keys.ts';

/** Somebody whom a grant of ours lets look, and the displays they look at. */
export interface Watcher extends EpochViewer {
  readonly displays: readonly number[];
}
