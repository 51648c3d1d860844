import type { IncomingMessage, Server } from 'node:http';
import type { Duplex } from 'node:stream';

/** A socket that was refused gets this long to take the answer. */
const REFUSAL_MS = 1_000;

export type Refusal = 'not found' | 'too many' | 'busy';
const refusals: Readonly<Record<Refusal, string>> = {
  'not found': '404 Not Found',
  'too many': '429 Too Many Requests',
  busy: '503 Service Unavailable',
};

/** `address`: whose socket it is, as far as the proxies that are trusted say. */
export type UpgradeHandler = (request: IncomingMessage, socket: Duplex, head: Buffer, address: string) => void;

/**
 * Hands each upgrade to who serves its path. From its first moment on every socket has somebody who hears its errors, on
 * whatever path and branch: a reset, however early, ends that socket and nothing else.
 */
export function serveUpgrades(
  server: Server,
  handlers: Readonly<Record<string, UpgradeHandler>>,
  addressOf: (request: IncomingMessage) => string,
  onFault: (error: unknown) => void,
): void {
  server.on('upgrade', (request: IncomingMessage, socket: Duplex, head: Buffer) => {
    socket.on('error', () => socket.destroy());
    const path = (request.url ?? '').split('?')[0] ?? '';
    const handler = Object.hasOwn(handlers, path) ? handlers[path] : undefined;
    // Gone before we looked: it has no address any longer, and nobody to answer.
    if (socket.destroyed || request.socket.remoteAddress === undefined) return void socket.destroy();
    if (!handler) return refuseUpgrade(socket, 'not found');
    try {
      handler(request, socket, head, addressOf(request));
    } catch (error) {
      // Whatever it is, it is this one connection's.
      socket.destroy();
      onFault(error);
    }
  });
}

/** Says no and lets go, also of a peer that never closes its half. */
export function refuseUpgrade(socket: Duplex, why: Refusal): void {
  const timer = setTimeout(() => socket.destroy(), REFUSAL_MS);
  socket.once('close', () => clearTimeout(timer));
  socket.end(`HTTP/1.1 ${refusals[why]}\r\nConnection: close\r\nContent-Length: 0\r\n\r\n`, () => socket.destroy());
}
