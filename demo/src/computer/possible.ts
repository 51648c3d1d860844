import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, rmdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { controlGroups } from './control-groups.ts';

const needed = {
  '/lib/systemd/systemd': 'systemd',
  '/usr/sbin/lightdm': 'a sign-in screen (LightDM)',
  '/usr/bin/unshare': 'unshare',
  '/usr/bin/nsenter': 'nsenter',
  '/bin/ip': 'ip',
};
const TRY_MS = 20_000;
/** What a stand-in computer needs of the kernel, tried on nothing that matters. */
const trial = `set -e
mount -t tmpfs tmpfs "$DIR"; mkdir "$DIR/a" "$DIR/b" "$DIR/root"
mount -t overlay overlay -o "lowerdir=/,upperdir=$DIR/a,workdir=$DIR/b" "$DIR/root"
mount -t proc proc "$DIR/root/proc"
mount -t sysfs -o ro sysfs "$DIR/root/sys"
mount -t tmpfs tmpfs "$DIR/root/sys/fs/cgroup" 2>/dev/null || true
mount -t cgroup2 cgroup2 "$DIR/root/sys/fs/cgroup"`;

/** Why this machine cannot hold stand-in computers, for people; undefined where it can. */
export function whyNoComputers(): string | undefined {
  if (process.getuid?.() !== 0) return 'only root may start them';
  const missing = Object.entries(needed)
    .filter(([path]) => !existsSync(path))
    .map(([, what]) => what);
  if (missing.length) return `not installed: ${missing.join(', ')}`;
  const groups = controlGroups();
  if (groups === undefined) return 'the kernel offers no control groups of the second version';
  const group = join(groups, `stand-in-trial-${process.pid}`);
  const folder = mkdtempSync(join(tmpdir(), 'porch-trial-'));
  try {
    mkdirSync(group);
    const tried = spawnSync(
      'sh',
      [
        ...['-c', 'echo $$ > "$GROUP/cgroup.procs"; exec unshare "$@"', 'sh'],
        ...['--mount', '--pid', '--uts', '--ipc', '--cgroup', '--net', '--fork', '--kill-child', 'sh', '-c', trial],
      ],
      { env: { ...process.env, GROUP: group, DIR: folder }, encoding: 'utf8', timeout: TRY_MS },
    );
    if (tried.status === 0) return undefined;
    return `the machine does not permit it (${tried.stderr.trim().split('\n')[0] ?? 'no answer'})`;
  } catch (error) {
    return `the machine does not permit it (${error instanceof Error ? error.message : String(error)})`;
  } finally {
    rmSync(folder, { recursive: true, force: true });
    if (existsSync(group)) rmdirSync(group);
  }
}
