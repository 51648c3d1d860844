import type { RunGuard } from './runs/run-guard.ts';

/** Hears of everything that must not outlive this process: of runs, and of printers in the computer's list. */
export interface LeftGuard extends RunGuard {
  report(what: 'run' | 'printer', which: string, isThere: boolean): void;
}
