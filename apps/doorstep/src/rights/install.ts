import { randomBytes } from 'node:crypto';
import { chmodSync, copyFileSync, existsSync, mkdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { ownCommand, ownFile } from '../release/self.ts';
import { unitWord } from '../system/systemd.ts';
import { runToItsEnd } from '../system/run-command.ts';
import { INSTALLED, installedHere, SOCKET, type Installed } from './installed.ts';
import { isRootsOwn } from './root-command.ts';

/** Where the part lies: nobody but root may change it. */
const PROGRAM = '/usr/local/lib/zesty-porch/doorstep';
const UNITS = '/etc/systemd/system';
const NAME = 'zesty-porch-rights';
const USED = '/var/lib/zesty-porch';
const SYSTEMCTL_MS = 20_000;

/** One process for each Doorstep that asks, with nothing but that connection (systemd.socket(5), `Accept=`). */
const socketUnit = `[Unit]
Description=Administrator rights of support sessions, by the desk's leave

[Socket]
ListenStream=${SOCKET}
SocketMode=0666
Accept=yes
MaxConnections=8
MaxConnectionsPerSource=4

[Install]
WantedBy=sockets.target
`;
const serviceUnit = (command: readonly string[]): string => `[Unit]
Description=Administrator rights of one support session
CollectMode=inactive-or-failed

[Service]
ExecStart=${command.map(unitWord).join(' ')} root-part --installed %i
StandardInput=socket
StandardOutput=socket
StandardError=journal
KillMode=control-group
TimeoutStopSec=3
`;
function needRoot(): void {
  if (process.getuid?.() !== 0) throw new Error('only root may do this: put sudo before it');
}
async function systemctl(...args: readonly string[]): Promise<void> {
  const { code, wrong } = await runToItsEnd('systemctl', ['--system', ...args], AbortSignal.timeout(SYSTEMCTL_MS));
  if (code !== 0) throw new Error(`systemctl ${args.join(' ')}: ${wrong.trim()}`);
}

function program(): readonly string[] {
  const own = ownFile();
  if (!own) {
    const command = ownCommand();
    for (const file of command)
      if (!isRootsOwn(file)) throw new Error(`${file} could be changed by others than root: nothing was installed`);
    return command;
  }
  mkdirSync(dirname(PROGRAM), { recursive: true, mode: 0o755 });
  // Beside it first: the file that is there may be running.
  copyFileSync(own, `${PROGRAM}.new`);
  chmodSync(`${PROGRAM}.new`, 0o755);
  renameSync(`${PROGRAM}.new`, PROGRAM);
  return [PROGRAM];
}

/**
 * Puts the part that holds administrator rights on this computer: from then on the desk with this key may give leave for
 * them, once each, to a Doorstep whose person said yes. What is there already keeps its device number.
 */
export async function installRights(deskKey: string): Promise<Installed> {
  needRoot();
  if (!/^[0-9a-f]{64}$/.test(deskKey)) throw new Error('the key of a desk is 64 hexadecimal digits');
  const command = program();
  const installed = { deskKey, deviceId: installedHere()?.deviceId ?? randomBytes(16).toString('hex') };
  mkdirSync(dirname(INSTALLED), { recursive: true, mode: 0o755 });
  writeFileSync(INSTALLED, `${JSON.stringify(installed)}\n`, { mode: 0o644 });
  writeFileSync(`${UNITS}/${NAME}.socket`, socketUnit);
  writeFileSync(`${UNITS}/${NAME}@.service`, serviceUnit(command));
  await systemctl('daemon-reload');
  await systemctl('enable', '--now', `${NAME}.socket`);
  return installed;
}

/** Takes all of it away; false where there was nothing. */
export async function removeRights(): Promise<boolean> {
  needRoot();
  const isThere = existsSync(INSTALLED) || existsSync(`${UNITS}/${NAME}.socket`);
  if (existsSync(`${UNITS}/${NAME}.socket`)) {
    await systemctl('disable', '--now', `${NAME}.socket`);
    await systemctl('stop', `${NAME}@*.service`);
  }
  for (const path of [`${UNITS}/${NAME}.socket`, `${UNITS}/${NAME}@.service`, INSTALLED, SOCKET, PROGRAM])
    rmSync(path, { force: true });
  rmSync(USED, { recursive: true, force: true });
  for (const folder of [dirname(INSTALLED), dirname(PROGRAM)]) rmSync(folder, { recursive: true, force: true });
  if (isThere) await systemctl('daemon-reload');
  return isThere;
}
