import type { ChildProcess } from 'node:child_process';
import { readFileSync } from 'node:fs';

const WAKE_MS = 300;

/**
 * A computer that goes down stops all its processes before it ends them. nsenter, out here, stops itself whenever what it
 * started is stopped, and the computer would wait for what nobody reaps: then it is woken. `init`: its first process.
 */
export function keptAwake(child: ChildProcess, init: () => number | undefined): ChildProcess {
  const { pid } = child;
  if (pid === undefined) return child;
  const waking = setInterval(() => {
    if (isStopped(pid) && goesDown(init())) child.kill('SIGCONT');
  }, WAKE_MS);
  child.once('exit', () => clearInterval(waking));
  return child;
}

/** Once systemd has become what ends everything: the kernel cuts its name after fifteen characters. */
function goesDown(init: number | undefined): boolean {
  try {
    return init === undefined || readFileSync(`/proc/${init}/comm`, 'latin1').startsWith('systemd-shutdow');
  } catch {
    return true; // It is down.
  }
}

/** By its state (proc(5), the third field of `stat`). */
function isStopped(pid: number): boolean {
  try {
    return readFileSync(`/proc/${pid}/stat`, 'latin1').split(') ').at(-1)?.startsWith('T') ?? false;
  } catch {
    return false; // It has ended.
  }
}
