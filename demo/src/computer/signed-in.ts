import { lstatSync, readdirSync, readFileSync, readlinkSync } from 'node:fs';
import { join } from 'node:path';
import { controlGroups } from './control-groups.ts';

/** What a program in a person's session is known by; nobody who starts one says otherwise. */
const OF_THE_SESSION = [
  'DISPLAY',
  'XAUTHORITY',
  'DBUS_SESSION_BUS_ADDRESS',
  'XDG_RUNTIME_DIR',
  'XDG_SESSION_ID',
  'XDG_SEAT',
  'XDG_SESSION_TYPE',
  'USER',
  'LOGNAME',
];

/** Somebody signed in at a stand-in computer: where their programs belong. */
export interface SignedIn {
  readonly group: string;
  readonly env: Readonly<Record<string, string>>;
}

/** Finds the desktop session of an account by its window manager. `init`: the first process of the computer, as this machine counts. */
export function signedInAt(init: number, uid: number): SignedIn | undefined {
  for (const pid of readdirSync('/proc').filter((name) => /^\d+$/.test(name))) {
    try {
      if (readFileSync(`/proc/${pid}/comm`, 'utf8') !== 'openbox\n' || lstatSync(`/proc/${pid}`).uid !== uid) continue;
      if (readlinkSync(`/proc/${pid}/ns/pid`) !== readlinkSync(`/proc/${init}/ns/pid`)) continue;
      const all = readFileSync(`/proc/${pid}/environ`, 'utf8')
        .split('\0')
        .map((one) => one.split(/=(.*)/s));
      const env = Object.fromEntries(
        all.filter(([key = '']) => OF_THE_SESSION.includes(key)).map(([key, value = '']) => [key, value]),
      );
      const path = /^0::(.*)$/m.exec(readFileSync(`/proc/${pid}/cgroup`, 'utf8'))?.[1];
      // A program has its name a moment before it has its environment.
      if (path === undefined || env['DISPLAY'] === undefined) continue;
      return { group: join(controlGroups() ?? '', path, 'cgroup.procs'), env };
    } catch {
      // It ended while it was looked at.
    }
  }
  return undefined;
}
