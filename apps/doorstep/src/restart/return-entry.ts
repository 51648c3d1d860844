import { existsSync, mkdirSync, rmdirSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { unregisterReturning, type EntryPlaces } from '../desktop-entry.ts';
import { unitWord } from '../system/systemd.ts';
import { withLogind } from '../system/logind.ts';

export const RETURN_UNIT = 'zesty-porch-return.service';
const unitFile = ({ configHome }: EntryPlaces) => join(configHome, 'systemd', 'user', RETURN_UNIT);
const wantedFile = ({ configHome }: EntryPlaces) =>
  join(configHome, 'systemd', 'user', 'default.target.wants', RETURN_UNIT);
const LINGERS = '/var/lib/systemd/linger';

/** What says how far the computer is, before anybody has signed in: systemd's manager for this account starts it. */
const unitText = (command: readonly string[], stateFolder: string) => `[Unit]
Description=How far this computer is on its way back to a support session

[Service]
ExecStart=${[...command, 'return-steps', '--state', stateFolder].map(unitWord).join(' ')}
`;

/**
 * Has what tells of the way back started before anybody signs in. Answers whether the account's manager had to be allowed to
 * run by itself for that.
 */
export async function registerSteps(
  places: EntryPlaces,
  { command, stateFolder }: { readonly command: readonly string[]; readonly stateFolder: string },
  account: { readonly name: string; readonly uid: number },
): Promise<boolean> {
  mkdirSync(dirname(wantedFile(places)), { recursive: true });
  writeFileSync(unitFile(places), unitText(command, stateFolder));
  rmSync(wantedFile(places), { force: true });
  symlinkSync(unitFile(places), wantedFile(places));
  if (existsSync(join(LINGERS, account.name))) return false;
  await withLogind((logind) => logind.linger(account.uid, true));
  return true;
}

/** Nothing of it stays. What can fail comes first: then the rest is still there for another try. */
export async function unregisterReturn(places: EntryPlaces, uid: number, hasLinger: boolean): Promise<void> {
  if (hasLinger) await withLogind((logind) => logind.linger(uid, false));
  unregisterReturning(places);
  for (const file of [wantedFile(places), unitFile(places)]) rmSync(file, { force: true });
  for (const folder of [dirname(wantedFile(places)), dirname(unitFile(places)), join(places.configHome, 'systemd')])
    try {
      rmdirSync(folder);
    } catch {
      break; // Something else lies there, or it was never there.
    }
}
