import { chmodSync, copyFileSync, existsSync, mkdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { ownCommand, ownFile } from '../release/self.ts';
import { isRootsOwn } from './roots-own.ts';
import { runToItsEnd } from './run-command.ts';
import { unitWord } from './systemd.ts';

/*
 * What whoever looks after a computer puts on it beforehand: a socket that everybody there may connect to, and for each
 * connection a process of its own as root (systemd.socket(5), `Accept=`).
 */

/** Where the program lies that runs as root: nobody but root may change it. */
const PROGRAM = '/usr/local/lib/zesty-porch/doorstep';
const UNITS = '/etc/systemd/system';
const SYSTEMCTL_MS = 20_000;
/** All of them run the one program. */
const NAMES = ['zesty-porch-rights', 'zesty-porch-bell'] as const;

export interface RootService {
  readonly name: (typeof NAMES)[number];
  readonly socket: string;
  /** What root says there for everybody to read. */
  readonly says: string;
  /** For people who list units. */
  readonly socketIs: string;
  readonly serviceIs: string;
  /** What the program is called with; `%i` is the connection. */
  readonly args: readonly string[];
}

const socketFile = ({ name }: Pick<RootService, 'name'>) => `${UNITS}/${name}.socket`;
const serviceFile = ({ name }: RootService) => `${UNITS}/${name}@.service`;
const socketUnit = ({ socket, socketIs }: RootService): string => `[Unit]
Description=${socketIs}

[Socket]
ListenStream=${socket}
SocketMode=0666
Accept=yes
MaxConnections=8
MaxConnectionsPerSource=4

[Install]
WantedBy=sockets.target
`;
const serviceUnit = ({ serviceIs, args }: RootService, command: readonly string[]): string => `[Unit]
Description=${serviceIs}
CollectMode=inactive-or-failed

[Service]
ExecStart=${command.map(unitWord).join(' ')} ${args.join(' ')}
StandardInput=socket
StandardOutput=socket
StandardError=journal
KillMode=control-group
TimeoutStopSec=3
`;

export function needRoot(): void {
  if (process.getuid?.() !== 0) throw new Error('only root may do this: put sudo before it');
}
async function systemctl(...args: readonly string[]): Promise<void> {
  const { code, wrong } = await runToItsEnd('systemctl', ['--system', ...args], AbortSignal.timeout(SYSTEMCTL_MS));
  if (code !== 0) throw new Error(`systemctl ${args.join(' ')}: ${wrong.trim()}`);
}

/** How the program is called that nobody but root may change: a copy of a released one, or what was built. */
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

/** As root. `says` is written where everybody may read it. */
export async function installRootService(service: RootService, says: object): Promise<void> {
  const command = program();
  mkdirSync(dirname(service.says), { recursive: true, mode: 0o755 });
  writeFileSync(service.says, `${JSON.stringify(says)}\n`, { mode: 0o644 });
  writeFileSync(socketFile(service), socketUnit(service));
  writeFileSync(serviceFile(service), serviceUnit(service, command));
  await systemctl('daemon-reload');
  await systemctl('enable', '--now', `${service.name}.socket`);
}

/** As root: takes all of it away, and `besides`; false where there was nothing. */
export async function removeRootService(service: RootService, besides: readonly string[] = []): Promise<boolean> {
  const hasSocket = existsSync(socketFile(service));
  const isThere = hasSocket || existsSync(service.says);
  if (hasSocket) {
    await systemctl('disable', '--now', `${service.name}.socket`);
    await systemctl('stop', `${service.name}@*.service`);
  }
  for (const path of [socketFile(service), serviceFile(service), service.says, service.socket])
    rmSync(path, { force: true });
  for (const folder of besides) rmSync(folder, { recursive: true, force: true });
  if (!NAMES.some((name) => existsSync(socketFile({ name }))))
    for (const folder of [dirname(service.says), dirname(PROGRAM)]) rmSync(folder, { recursive: true, force: true });
  if (isThere) await systemctl('daemon-reload');
  return isThere;
}
