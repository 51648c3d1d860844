import { connect } from 'node:net';
import { randomBytes } from 'node:crypto';
import { WebSocket } from 'ws';

/** Loopback has sixteen million addresses: strangers come from many, as they would. */
const ADDRESSES = 50;
const addressOf = (i: number) => `127.0.1.${1 + (i % ADDRESSES)}`;
const JUNK_EVERY_MS = 5;
const AGAIN_MS = 20;

type Stranger = (url: URL, i: number) => void;

const socketTo = (url: URL, i: number) => {
  const socket = new WebSocket(`ws://${url.host}/live`, { localAddress: addressOf(i) });
  socket.on('error', () => undefined);
  return socket;
};

/** Comes in and says nothing. */
const silent: Stranger = (url, i) => {
  let socket = socketTo(url, i);
  setInterval(() => {
    if (socket.readyState === WebSocket.CLOSED) socket = socketTo(url, i);
  }, AGAIN_MS);
};
/** Says what is no message, as fast as it can, and comes again when it is thrown out. */
const talkative: Stranger = (url, i) => {
  const junk = [JSON.stringify({ type: 'hello', version: 3, pass: 'x'.repeat(43) }), randomBytes(32_000), '{'];
  let socket = socketTo(url, i);
  setInterval(() => {
    if (socket.readyState === WebSocket.CLOSED) socket = socketTo(url, i);
    else if (socket.readyState === WebSocket.OPEN) for (const one of junk) socket.send(one);
  }, JUNK_EVERY_MS);
};
/** Asks for an upgrade, or half of one, and resets. */
const rude: Stranger = (url, i) => {
  setInterval(() => {
    const socket = connect({ host: url.hostname, port: Number(url.port), localAddress: addressOf(i) });
    socket.on('error', () => undefined);
    socket.on('connect', () => {
      socket.write(`GET /${i % 2 ? 'nope' : 'live'} HTTP/1.1\r\nHost: ${url.host}\r\nConnection: Upgrade\r\n`);
      setTimeout(() => socket.resetAndDestroy(), AGAIN_MS / 4);
    });
  }, AGAIN_MS * 5);
};
const kinds = [silent, talkative, rude, silent, talkative];

/** Hostile connections to a service, until the process is ended. */
export function flooders(address: string, count: string): Promise<void> {
  const url = new URL(address);
  for (let i = 0; i < Number(count); i++) kinds[i % kinds.length]?.(url, i);
  process.stdout.write('flooding\n');
  return new Promise(() => undefined);
}
