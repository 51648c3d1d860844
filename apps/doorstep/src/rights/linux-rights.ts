import { RightsRefused, type RightsPort } from '@porch/host';
import { existsSync } from 'node:fs';
import { createConnection } from 'node:net';
import { PKEXEC, raiseByPolkit } from './by-polkit.ts';
import { raiseBySudo, SUDO } from './by-sudo.ts';
import { HeldPart } from './held-part.ts';
import { installedHere, SOCKET } from './installed.ts';

/** The part has to be started, and to look at what the desk signed. */
const BEGIN_MS = 15_000;
const POLKIT_BUS = '/run/dbus/system_bus_socket';
const hasPolkit = (): boolean => existsSync(PKEXEC) && existsSync(POLKIT_BUS);

/** Administrator rights under Linux; undefined where nobody could ever have them. */
export function linuxRights(): RightsPort | undefined {
  const canAsk = () => hasPolkit() || existsSync(SUDO);
  if (!canAsk() && !installedHere()) return undefined;
  return {
    possible: () => {
      const installed = installedHere();
      return Promise.resolve({ password: canAsk(), ...(installed && existsSync(SOCKET) ? { installed } : {}) });
    },
    byPassword: (put, signal) => (hasPolkit() ? raiseByPolkit(put, signal) : raiseBySudo(put, signal)),
    async byLeave({ raiseId, sessionId, technicianKey, ...leave }, holder, signal) {
      const socket = createConnection(SOCKET);
      const part = new HeldPart(socket, socket);
      const giveUp = () => socket.destroy();
      const ends = AbortSignal.any([signal, AbortSignal.timeout(BEGIN_MS)]);
      ends.addEventListener('abort', giveUp, { once: true });
      try {
        await part.begun((nonce) => ({
          ...{ do: 'begin', raiseId, sessionId, technicianKey, leave, holderKey: holder.key },
          proof: holder.prove(nonce),
        }));
        return part;
      } catch (error) {
        socket.destroy();
        throw error instanceof RightsRefused ? error : new RightsRefused('it failed at the computer');
      } finally {
        ends.removeEventListener('abort', giveUp);
      }
    },
  };
}
