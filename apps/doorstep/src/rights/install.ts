import { randomBytes } from 'node:crypto';
import { installRootService, needRoot, removeRootService, type RootService } from '../system/root-service.ts';
import { INSTALLED, installedHere, SOCKET, type Installed } from './installed.ts';

const USED = '/var/lib/zesty-porch';

const service: RootService = {
  name: 'zesty-porch-rights',
  socket: SOCKET,
  says: INSTALLED,
  socketIs: "Administrator rights of support sessions, by the desk's leave",
  serviceIs: 'Administrator rights of one support session',
  args: ['root-part', '--installed', '%i'],
};

/**
 * Puts the part that holds administrator rights on this computer: from then on the desk with this key may give leave for
 * them, once each, to a Doorstep whose person said yes. What is there already keeps its device number.
 */
export async function installRights(deskKey: string): Promise<Installed> {
  needRoot();
  if (!/^[0-9a-f]{64}$/.test(deskKey)) throw new Error('the key of a desk is 64 hexadecimal digits');
  const installed = { deskKey, deviceId: installedHere()?.deviceId ?? randomBytes(16).toString('hex') };
  await installRootService(service, installed);
  return installed;
}

/** Takes all of it away; false where there was nothing. */
export function removeRights(): Promise<boolean> {
  needRoot();
  return removeRootService(service, [USED]);
}
