import { chmodSync, existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { ChildProcess } from 'node:child_process';
import { giveTo, type Account } from './account.ts';
import type { Starter } from './processes.ts';
import { READY_MS } from './x-windows.ts';

/** What programs of a stand-in computer tell each other by: a message bus of its own, with notifications that can be seen. */
export interface SessionBus {
  /** Where programs find it; with it they also tell readers of the screen what they show. */
  readonly env: NodeJS.ProcessEnv;
  readonly daemon: ChildProcess;
  /** Shows a notification, as a program on this desktop would. */
  notify(title: string, words: string): void;
}

const LOOK_MS = 50;
/** Plain, in one place, and long enough to be read. */
const notificationSettings = `[global]
    font = DejaVu Sans 11
    origin = top-right
    offset = 24x90
    width = 320
    timeout = 20
    icon_position = off
    frame_width = 1
[urgency_normal]
    background = "#f2efe6"
    foreground = "#22302f"
    frame_color = "#0f3d44"
`;

/**
 * A message bus, what brings programs that read the screen together, and notifications; resolves once it answers.
 * `daemon`: what the bus lives with, where who is signed in has one already.
 */
export async function startSessionBus(
  starter: Starter,
  {
    name,
    home,
    display,
    account,
    daemon: itsOwn,
  }: {
    name: string;
    home: string;
    display: string;
    account?: Account | undefined;
    daemon?: ChildProcess | undefined;
  },
): Promise<SessionBus> {
  const socket = join(home, 'bus');
  const settings = join(home, 'notifications.conf');
  mkdirSync(home, { recursive: true });
  // What it starts by itself keeps its own socket in here, and wants nobody else in it.
  const runtime = join(home, 'run');
  mkdirSync(runtime, { recursive: true });
  chmodSync(runtime, 0o700);
  writeFileSync(settings, notificationSettings);
  if (account) giveTo(account, home);
  const env = {
    HOME: home,
    DISPLAY: display,
    XDG_RUNTIME_DIR: runtime,
    XDG_CONFIG_HOME: join(home, '.config'),
    XDG_CACHE_HOME: join(home, '.cache'),
    DBUS_SESSION_BUS_ADDRESS: `unix:path=${socket}`,
  };
  const run = (what: string, command: string, args: readonly string[]) =>
    starter.start(`${what} of ${name}`, command, [...args], {
      env: { ...process.env, ...env },
      cwd: home,
      stdio: 'ignore',
      ...account,
    });
  const daemon =
    itsOwn ?? run('message bus', 'dbus-daemon', ['--session', '--nofork', `--address=unix:path=${socket}`]);
  const giveUpAtMs = Date.now() + READY_MS;
  while (!itsOwn && !existsSync(socket)) {
    if (daemon.exitCode !== null || Date.now() > giveUpAtMs) throw new Error('the message bus was not ready in time');
    await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
  }
  run('notifications', 'dunst', ['-config', settings]);
  return {
    env,
    daemon,
    notify: (title, words) => void run('notification', 'notify-send', [title, words]),
  };
}
