import { hasScopes, ofManager, scopeOf } from './end-run.ts';

/** Where programs of the system lie. What the person's account puts before them is not asked. */
export const PATH = '/usr/local/bin:/usr/bin:/bin:/usr/sbin:/sbin';
/** Of the person's own surroundings, what programs need to reach their desktop and their files. */
const passedOn =
  /^(HOME|USER|LOGNAME|LANG|LANGUAGE|LC_.*|TZ|DISPLAY|WAYLAND_DISPLAY|XAUTHORITY|DBUS_SESSION_BUS_ADDRESS|XDG_.*)$/;

/** The environment that is passed on to what runs for the desk; what it is given besides goes over it. */
export const surroundingsOf = (home: string): Record<string, string> => ({
  ...Object.fromEntries(
    Object.entries(process.env).flatMap(([name, value]) =>
      value !== undefined && passedOn.test(name) ? [[name, value]] : [],
    ),
  ),
  ...(process.getuid ? { XDG_RUNTIME_DIR: `/run/user/${process.getuid()}` } : {}),
  HOME: home,
});

/** A command in a scope of its own where there are such: then everything that it starts is held together. */
export function inScope(runId: string, ...command: readonly [string, ...string[]]): [string, ...string[]] {
  if (!hasScopes()) return [...command];
  const how = [ofManager, '--scope', '--quiet', '--collect', `--unit=${scopeOf(runId)}`];
  return ['/usr/bin/systemd-run', ...how, '-p', 'KillSignal=SIGKILL', '-p', 'TimeoutStopSec=1s', '--', ...command];
}
