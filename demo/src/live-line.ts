import { LiveConnection, type SocketLike } from '@porch/client';
import { makeKeys } from '@porch/wire';
import { WebSocket } from 'ws';

/** A live connection of somebody who is played, with keys of its own. */
export const liveLine = (pass: ConstructorParameters<typeof LiveConnection>[0]['pass']): LiveConnection =>
  new LiveConnection({ pass, openSocket: (url) => new WebSocket(url) as unknown as SocketLike, keys: makeKeys() });
