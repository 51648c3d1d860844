import { RunRefused, type ScriptEnded, type ScriptToRun } from '@porch/host';
import { spawn, type ChildProcess } from 'node:child_process';
import { accessSync, constants } from 'node:fs';
import { mkdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { endRun, folderOf, MARK } from '../runs/end-run.ts';
import { inScope, PATH, surroundingsOf } from '../runs/in-scope.ts';
import type { RunGuard } from '../runs/run-guard.ts';

/** Where programs of the system lie. What the person's account puts before them is not asked. */
const PLACES = ['/usr/bin', '/bin'];
/** A script that prints without end is read so much slower that keys do not wait for it. */
const PAUSE_MS = 8;
const MUCH_BYTES = 8_192;
/** What it printed before its end is still read for so long. */
const DRAIN_MS = 1_000;

/** Where the program is that reads a script. Throws RunRefused when it is not there. */
export function readerOf({ interpreter }: Pick<ScriptToRun, 'interpreter'>): string {
  for (const place of PLACES) {
    const path = join(place, interpreter);
    try {
      accessSync(path, constants.X_OK);
      return path;
    } catch {
      // The next one.
    }
  }
  throw new RunRefused('the program that reads the script is not there');
}

const environmentFor = ({ environment }: ScriptToRun, home: string, folder: string): Record<string, string> => ({
  ...surroundingsOf(home),
  ...{ PATH, TMPDIR: folder },
  ...environment,
});

/**
 * Runs a script as the person here, with nothing to read from and no terminal. It lies in a folder of its own for as long
 * as it runs, and what it leaves there goes with it. With its end, or the signal, everything that it started ends.
 */
export async function runScript(
  script: ScriptToRun,
  { home, guard }: { readonly home: string; readonly guard: RunGuard },
  { may, print, signal }: { may: () => boolean; print: (text: string) => void; signal: AbortSignal },
): Promise<ScriptEnded> {
  const reader = readerOf(script);
  const folder = folderOf(script.runId);
  await mkdir(folder, { mode: 0o700 });
  try {
    const file = join(folder, 'script');
    await writeFile(file, script.text, { mode: 0o600 });
    const surroundings = { cwd: home, env: environmentFor(script, home, folder), guard };
    return await runHeld(script.runId, [reader, file], surroundings, { may, print, signal });
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Runs a command with all that it starts held together: it ends with the signal, whole. */
export async function runHeld(
  runId: string,
  command: readonly [string, ...string[]],
  {
    cwd,
    env,
    guard,
  }: { readonly cwd: string; readonly env: Readonly<Record<string, string>>; readonly guard: RunGuard },
  { may, print, signal }: { may: () => boolean; print: (text: string) => void; signal: AbortSignal },
): Promise<ScriptEnded> {
  const [file, ...args] = inScope(runId, ...command);
  if (!may()) return { code: undefined, mayGoOn: false };
  guard.report('run', runId, true);
  try {
    const child = spawn(file, args, {
      ...{ cwd, env: { ...env, [MARK]: runId }, stdio: ['ignore', 'pipe', 'pipe'], detached: true },
    });
    return await toItsEnd(child, runId, print, signal);
  } finally {
    guard.report('run', runId, false);
  }
}

async function toItsEnd(
  child: ChildProcess,
  runId: string,
  print: (text: string) => void,
  signal: AbortSignal,
): Promise<ScriptEnded> {
  const read = [child.stdout, child.stderr].map((stream) => stream && readSlowly(stream, print));
  const ended = new Promise<number | undefined>((resolve, reject) => {
    child.once('error', reject);
    child.once('exit', (code) => resolve(code ?? undefined));
  });
  let ending: Promise<boolean> | undefined;
  const end = () => (ending ??= endRun(runId, child.pid));
  const onAbort = () => void end().catch(() => undefined); // Whoever waits below hears of it.
  signal.addEventListener('abort', onAbort, { once: true });
  if (signal.aborted) onAbort();
  try {
    const code = await ended;
    // What it left in the background ends with it.
    const isAllGone = await end();
    const late = new Promise((resolve) => setTimeout(resolve, DRAIN_MS));
    await Promise.race([Promise.all(read), late]);
    return { code, mayGoOn: !isAllGone };
  } finally {
    signal.removeEventListener('abort', onAbort);
  }
}

/** Reads text piece by piece, with a pause after much of it. Resolves at its end. */
function readSlowly(stream: Readable, print: (text: string) => void): Promise<void> {
  const decoder = new TextDecoder();
  return new Promise((resolve) => {
    stream.on('data', (bytes: Buffer) => {
      print(decoder.decode(bytes, { stream: true }));
      if (bytes.length < MUCH_BYTES) return;
      stream.pause();
      setTimeout(() => stream.resume(), PAUSE_MS);
    });
    stream.once('close', resolve);
    // Whatever ended it: its process ends as well, and says how.
    stream.once('error', () => resolve());
  });
}
