import type { IncomingMessage } from 'node:http';
import type { Duplex } from 'node:stream';
import type { WebSocket, WebSocketServer } from 'ws';
import type { Leave, Strangers } from './strangers.ts';
import { refuseUpgrade } from './upgrades.ts';

/** An upgrade as it came. */
export interface Upgrade {
  readonly request: IncomingMessage;
  readonly socket: Duplex;
  readonly head: Buffer;
  /** Whose socket it is, as far as the proxies that are trusted say. */
  readonly address: string;
}

/** Lets a socket in as a stranger, if there is a place for one; `meet` gives the place back once it is somebody. */
export function letStrangerIn(
  { request, socket, head, address }: Upgrade,
  strangers: Strangers,
  server: WebSocketServer,
  meet: (webSocket: WebSocket, leave: Leave) => void,
): void {
  const leave = strangers.enter(address, () => socket.destroy());
  if (!leave) {
    refuseUpgrade(socket, 'too many');
    return;
  }
  socket.once('close', leave);
  server.handleUpgrade(request, socket, head, (webSocket) => meet(webSocket, leave));
}
