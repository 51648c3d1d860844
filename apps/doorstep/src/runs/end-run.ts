import { existsSync, readdirSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { runToItsEnd } from '../system/run-command.ts';
import { accountOf } from '../system/process-table.ts';
import { textOf } from '../system/text-of.ts';

/** In the environment of everything that a run starts, and of what that starts. */
export const MARK = 'DOORSTEP_RUN';
const runIds = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;

/** A scope of the systemd of whoever runs it, the person here or the computer's administrator, which holds everything that a run starts, whatever it calls itself. */
export const scopeOf = (runId: string): string => `doorstep-run-${runId}.scope`;
const isAdministrator = process.getuid?.() === 0;
const ownManager = (): string =>
  isAdministrator ? '/run/systemd/private' : `/run/user/${process.getuid?.() ?? 0}/systemd/private`;
/** Whose systemd that is, to its tools. */
export const ofManager = isAdministrator ? '--system' : '--user';
/** Where its script lies, and what it leaves for a while: gone with it. Its number is nobody's to guess. */
export const folderOf = (runId: string): string => join(tmpdir(), `doorstep-run-${runId}`);
/** Whether this account has a systemd that keeps such scopes. */
export const hasScopes = (): boolean => existsSync(ownManager()) && existsSync('/usr/bin/systemd-run');

const END_MS = 3_000;
/** What forks while it is ended is looked for again. */
const MOST_ROUNDS = 40;

/** Processes of this account that carry the mark of a run; an administrator's run may go on under any account. */
function markedBy(runId: string): number[] {
  const own = process.getuid?.();
  const mark = `${MARK}=${runId}\0`;
  return readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .map(Number)
    .filter((pid) => pid !== process.pid && (isAdministrator || accountOf(pid) === own))
    .filter((pid) => `${textOf(`/proc/${pid}/environ`) ?? ''}\0`.includes(mark));
}

function kill(pid: number): void {
  try {
    process.kill(pid, 'SIGKILL');
  } catch (error) {
    // It went by itself, or has other rights than we have: then it is there in the next round, and said.
    if (!['ESRCH', 'EPERM'].includes((error as NodeJS.ErrnoException).code ?? '')) throw error;
  }
}

async function endMarked(runId: string): Promise<boolean> {
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const left = markedBy(runId);
    if (!left.length) return true;
    for (const pid of left) kill(pid);
    await new Promise((resolve) => setTimeout(resolve, round));
  }
  return false;
}

/**
 * Ends everything that a run started: its scope whole, and what carries its mark. `leader`: the process that was started,
 * which leads a group of its own. False when something of it is still there.
 */
export async function endRun(runId: string, leader?: number): Promise<boolean> {
  if (!runIds.test(runId)) throw new Error('this is no run');
  if (leader !== undefined) kill(-leader);
  // Its KillSignal is SIGKILL: nothing in it can ask for more time. That there is none any more is what is wanted.
  if (hasScopes()) await runToItsEnd('systemctl', [ofManager, 'stop', scopeOf(runId)], AbortSignal.timeout(END_MS));
  const isAllGone = await endMarked(runId);
  await rm(folderOf(runId), { recursive: true, force: true });
  return isAllGone;
}
