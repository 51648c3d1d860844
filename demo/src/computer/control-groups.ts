import { existsSync, readdirSync, readFileSync, rmdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { READY_MS } from '../x-windows.ts';

const LOOK_MS = 20;
const LEFT_AFTER_MS = 60_000;

/** Where control groups of the second version are, if this machine has them. */
export function controlGroups(): string | undefined {
  const mount = readFileSync('/proc/self/mounts', 'utf8')
    .split('\n')
    .map((line) => line.split(' '))
    .find(([, , kind]) => kind === 'cgroup2');
  return mount?.[1];
}

/** Control groups go one by one, the innermost first, each once its last process is gone. */
export async function removeGroup(path: string): Promise<void> {
  if (!existsSync(path)) return;
  for (const entry of readdirSync(path, { withFileTypes: true }))
    if (entry.isDirectory()) await removeGroup(join(path, entry.name));
  const giveUpAtMs = Date.now() + READY_MS;
  while (!readFileSync(join(path, 'cgroup.events'), 'utf8').includes('populated 0')) {
    if (Date.now() > giveUpAtMs) throw new Error(`something lives on in ${path}`);
    await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
  }
  rmdirSync(path);
}

/** What a run left that was killed. A new one is empty until its computer starts. */
export async function removeLeftGroups(groups: string, prefix: string): Promise<void> {
  for (const name of readdirSync(groups).filter((one) => one.startsWith(prefix)))
    if (isLeft(join(groups, name))) await removeGroup(join(groups, name));
}

function isLeft(group: string): boolean {
  try {
    return (
      Date.now() - statSync(group).mtimeMs > LEFT_AFTER_MS &&
      readFileSync(join(group, 'cgroup.events'), 'utf8').includes('populated 0')
    );
  } catch {
    return false; // Somebody else removes it right now.
  }
}
