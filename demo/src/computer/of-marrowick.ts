import { rmSync } from 'node:fs';
import { join } from 'node:path';
import type { DesktopOptions } from '../x-desktop.ts';
import type { StandInComputer } from './stand-in-computer.ts';
import type { ComputerPerson } from './computer-options.ts';

/** Where what we build is seen at a stand-in computer, whoever may read the folder that it was built in. */
const OURS = '/opt/zesty-porch';
const NODE = `${OURS}/bin/node`;

/** How Doorstep is started there, as it was built here: without the maps to its source, which a released one has not either. */
export const doorstepThere: readonly string[] = [NODE, `${OURS}/dist/doorstep.mjs`];

/** As that computer's administrator would: from then on the desk with this key may give leave for rights there. */
export async function installRightsThere(computer: StandInComputer, deskKey: string): Promise<void> {
  const [command = '', ...args] = doorstepThere;
  await computer.read(command, ...args, 'rights', 'install', '--desk-key', deskKey);
}

/** As its owner would: whoever is signed in there can be asked into sessions of that help desk, at their own desktop. */
export async function hangBellThere(computer: StandInComputer, serviceUrl: string, ...more: string[]): Promise<void> {
  const [command = '', ...args] = doorstepThere;
  await computer.read(command, ...args, 'bell', 'install', '--service', serviceUrl, ...more);
}

/** How the stand-in camera is. */
export const cameraThere: readonly string[] = [NODE, `${OURS}/dist/camera.mjs`];

/** Who has an account at the computers of Marrowick Ferries. Who keeps one may become administrator; made up, all of it. */
const accounts = {
  bettina: { login: 'bettina', uid: 4161, password: 'tern-quay-gull-7', isAdministrator: true },
  samir: { login: 'samir', uid: 4162, password: 'petrel-anchor-3', isAdministrator: false },
} as const satisfies Record<string, ComputerPerson>;

/** What somebody types when their own computer asks for it. */
export const passwordOf = (login: keyof typeof accounts): string => accounts[login].password;

const names = { bettina: 'tern-quay-04', samir: 'petrel-bridge-1' } as const;

/**
 * The computer of one of them: it reaches the service, and has what we built. `dist`: where that is on this machine;
 * `others`: who has an account there, too.
 */
export function theirComputer(
  login: keyof typeof accounts,
  {
    folder,
    home,
    dist,
    ports,
    others = [],
  }: {
    folder: string;
    home: string;
    dist: string;
    ports: readonly number[];
    others?: readonly (keyof typeof accounts)[];
  },
): NonNullable<DesktopOptions['computer']> {
  const its = join(folder, 'computers', names[login]);
  // What an earlier run left there is nobody's.
  rmSync(its, { recursive: true, force: true });
  return {
    name: names[login],
    folder: its,
    people: [{ ...accounts[login], home }, ...others.map((other) => accounts[other])],
    signsIn: login,
    reaches: ports,
    shows: [
      { from: dist, as: `${OURS}/dist` },
      { from: join(dist, '..', 'node_modules'), as: `${OURS}/node_modules` },
      { from: process.execPath, as: NODE },
    ],
    bridge: join(dist, 'bridge.mjs'),
  };
}
