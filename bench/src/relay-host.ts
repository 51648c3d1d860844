import { Peer } from '@porch/service/peer';
import { PictureRelay } from '@porch/service/picture-relay';
import { decodeFrame, realClock } from '@porch/wire';
import type { AddressInfo } from 'node:net';
import { WebSocketServer } from 'ws';

/*
 * A process of its own with the service's relay and peers and nothing else, so that its processor time is theirs. The
 * path says who comes: /source, or /viewer. Prints its port.
 */
const relay = new PictureRelay(realClock);
const viewers = new Set<Peer>();
let source: Peer | undefined;
let seats = 0;
const server = new WebSocketServer({ port: 0, host: '127.0.0.1', perMessageDeflate: false });
const follow = () =>
  relay.setViewers(
    [...viewers].map((peer) => ({ peer, streams: source ? [{ seat: source.seat, display: 0 }] : [] })),
    source ? [source] : [],
  );
server.on('connection', (socket, request) => {
  const side = request.url === '/source' ? 'customer' : 'desk';
  const onRoom = (from: Peer) => {
    relay.pump(from);
  };
  const who = { id: request.url ?? '', seat: ++seats, side, isGone: false } as const;
  const peer = new Peer(socket, who, onRoom, realClock);
  if (side === 'desk') viewers.add(peer);
  else source = peer;
  follow();
  socket.on('message', (data: Buffer) => {
    const frame = decodeFrame(data);
    if (peer.takeLine(frame, data.byteLength)) return;
    if (side === 'desk') relay.takeHolds(frame, { seat: source?.seat ?? 0, display: frame.display }, peer);
    else relay.takeFromSource(frame, data);
  });
  socket.on('close', () => {
    viewers.delete(peer);
    if (peer === source) source = undefined;
    follow();
  });
});
server.on('listening', () => process.stdout.write(`${(server.address() as AddressInfo).port}\n`));
