import type { PartOf } from '@porch/core';
import { existsSync, readdirSync } from 'node:fs';
import { textOf } from './text-of.ts';
import { hasSystemd } from './systemd.ts';
import { runCommand } from './run-command.ts';

const FIREWALLS = ['nftables.service', 'firewalld.service', 'ufw.service'];

/** systemctl(1), `is-active`: a line for each. What sets rules without being one of these is not seen: then it is unknown. */
export function firewallIn(states: string): PartOf<'security'>['firewall'] {
  const all = states.trim().split('\n');
  if (all.includes('active')) return 'on';
  return all.every((state) => state === 'inactive') ? 'off' : 'unknown';
}

/** Whether any volume of this computer is opened by a key (sysfs, device mapper). `root`: where block devices are told. */
export function encryptionHere(root = '/sys/block'): PartOf<'security'>['encryption'] {
  if (!existsSync(root)) return 'unknown';
  const devices = readdirSync(root);
  if (!devices.length) return 'unknown';
  return devices.some((name) => textOf(`${root}/${name}/dm/uuid`)?.startsWith('CRYPT-')) ? 'on' : 'off';
}

const automaticUpdates = (): PartOf<'security'>['automaticUpdates'] => {
  if (!existsSync('/etc/apt')) return 'unknown';
  const settings = textOf('/etc/apt/apt.conf.d/20auto-upgrades') ?? '';
  return /Unattended-Upgrade\s+"1"/.test(settings) ? 'on' : 'off';
};

export async function readSecurity(signal: AbortSignal): Promise<PartOf<'security'>> {
  const isThere = hasSystemd();
  const [states, sessions] = isThere
    ? await Promise.all([
        runCommand('systemctl', ['is-active', ...FIREWALLS], signal),
        runCommand('loginctl', ['list-sessions', '--no-legend', '--no-pager'], signal),
      ])
    : ['', ''];
  return {
    firewall: isThere ? firewallIn(states) : 'unknown',
    encryption: encryptionHere(),
    automaticUpdates: automaticUpdates(),
    signedIn: new Set(sessions.split('\n').flatMap((one) => one.trim().split(/\s+/)[1] ?? [])).size,
  };
}
