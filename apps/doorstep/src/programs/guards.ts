import { ancestorsOf, descendantsOf, type Process } from '../system/process-table.ts';

/** Without these nobody is signed in, nothing is drawn, or nothing is started any longer. */
const neededProcesses = new Set([
  ...['systemd', 'init', 'dbus-daemon', 'dbus-broker', 'dbus-broker-lau', 'systemd-logind', 'systemd-udevd'],
  ...['Xorg', 'Xvfb', 'X', 'lightdm', 'gdm3', 'sddm', 'gnome-shell', '(sd-pam)'],
]);
const neededServices = [
  /^(dbus|dbus-broker|systemd-(logind|journald|udevd|networkd|resolved)|user@\d+|user-runtime-dir@\d+)\.service$/,
  /^(display-manager|lightdm|gdm3?|sddm|NetworkManager|networking|wpa_supplicant)\.service$/,
];

/** Whether the computer, or this session of theirs, would stop with a service: its bus is one of the person's own. */
export const isNeededService = (unit: string): boolean => neededServices.some((one) => one.test(unit));

/** Why a process is not ended from here: it is ours, or somebody's session hangs on it. `self`: this program's number. */
export function guardsOf(processes: readonly Process[], self = process.pid): ReadonlyMap<number, 'ours' | 'needed'> {
  const byPid = new Map(processes.map((one) => [one.pid, one]));
  const guards = new Map<number, 'ours' | 'needed'>();
  for (const { pid, name } of processes) if (pid === 1 || neededProcesses.has(name)) guards.set(pid, 'needed');
  for (const pid of ancestorsOf(self, byPid)) guards.set(pid, guards.get(pid) ?? 'needed');
  for (const { pid } of descendantsOf(self, processes)) guards.set(pid, 'ours');
  guards.set(self, 'ours');
  return guards;
}
