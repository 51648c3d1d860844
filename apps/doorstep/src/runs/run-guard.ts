/** Hears of a run before it begins and once nothing of it is left, so that somebody ends it if this process dies. */
export interface RunGuard {
  report(what: 'run', runId: string, isThere: boolean): void;
}
