import { spawn, type ChildProcess } from 'node:child_process';
import { hasScopes, ofManager, scopeOf } from '../runs/end-run.ts';
import type { RunGuard } from '../runs/run-guard.ts';
import { SYSTEM_PATH } from '../system/run-command.ts';

/**
 * Ends a run's scope if this process dies, however it dies: a small shell waits for a word of it, and where only the end
 * of the pipe comes, the scope is stopped. Nothing is glued into what it runs. Without systemd there is no such scope.
 */
const WAITS = 'read -r over || exec systemctl "$1" stop "$2"';

export class GuardedRuns implements RunGuard {
  readonly #guards = new Map<string, ChildProcess>();

  report(_what: 'run', runId: string, isThere: boolean): void {
    if (!hasScopes()) return;
    if (!isThere) {
      this.#guards.get(runId)?.stdin?.end('over\n');
      this.#guards.delete(runId);
      return;
    }
    const guard = spawn('/bin/sh', ['-c', WAITS, 'sh', ofManager, scopeOf(runId)], {
      ...{ stdio: ['pipe', 'ignore', 'ignore'], detached: true, env: { PATH: SYSTEM_PATH } },
    });
    // A guard that cannot be started, or went, guards nothing; the run is ended by this process all the same.
    guard.once('error', () => this.#guards.delete(runId));
    guard.stdin.on('error', () => undefined);
    this.#guards.set(runId, guard);
  }
}
