import { EventEmitter } from 'node:events';
import { COMMAND_WINDOW, decodeFrame, encodeFrame, encodeHandled, frameKinds, realClock } from '@porch/wire';
import { codeOf } from '@porch/testkit/failure';
import type { WebSocket } from 'ws';
import { describe, expect, it } from 'vitest';
import { Peer } from './peer.ts';

/* One participant's socket, as the service holds it: what it takes of them, and what it sends when they do not read. */
class FakeSocket extends EventEmitter {
  readonly OPEN = 1;
  readyState = 1;
  bufferedAmount = 0;
  readonly sent: (string | Uint8Array)[] = [];
  closed: { code: number; reason: string } | undefined;
  send(data: string | Uint8Array): void {
    this.sent.push(data);
  }
  close(code: number, reason: string): void {
    this.closed = { code, reason };
    this.readyState = 3;
    this.emit('close');
  }
}
function newPeer() {
  const socket = new FakeSocket();
  const rooms: Peer[] = [];
  const participant = { id: 'p', seat: 3, side: 'desk', isGone: false } as const;
  const peer = new Peer(socket as unknown as WebSocket, participant, (p) => void rooms.push(p), realClock);
  return { socket, peer, rooms };
}
const line = (payload: Uint8Array) =>
  decodeFrame(
    encodeFrame({
      channel: 'line',
      kind: frameKinds.line.handled,
      display: 0,
      senderSeat: 3,
      receiverSeat: 0,
      epoch: 0,
      displayGeneration: 0,
      counter: 0n,
      payload,
    }),
  );

describe('what is taken of one participant', () => {
  it('words: a burst at once, then a pace, and never a refusal', () => {
    const { peer } = newPeer();
    const waits = Array.from({ length: 400 }, () => peer.countMessage(false));
    expect(waits.slice(0, 200).every((ms) => ms === 0)).toBe(true);
    expect(waits.at(-1)).toBeGreaterThan(1_000);
    expect(waits.at(-1)).toBeLessThanOrEqual(2_000);
  });

  it('pictures: a burst beyond all measure ends the connection', () => {
    const { peer } = newPeer();
    let taken = 0;
    while (codeOf(() => peer.countMessage(true)) === 'no failure' && taken < 20_000) taken++;
    expect(taken).toBeGreaterThanOrEqual(6_000);
    expect(taken, 'the next ones are TOO_MANY_MESSAGES').toBeLessThan(20_000);
  });

  it('commands: eight windows that nobody has answered, and each answer makes room for one more', () => {
    const { peer } = newPeer();
    for (let i = 0; i < 8 * COMMAND_WINDOW; i++) peer.countCommand();
    expect(codeOf(() => peer.countCommand())).toBe('TOO_MANY_MESSAGES');
    const { peer: other } = newPeer();
    for (let i = 0; i < 1_000; i++) {
      other.countCommand();
      other.answer({ type: 'accepted', id: 'x' });
    }
  });

  it('how much was handled: only as much as was sent, in a message that is one', () => {
    const { peer, rooms } = newPeer();
    expect(peer.takeLine(line(encodeHandled(5)), 30)).toBe(true);
    expect(rooms, 'nothing was sent yet').toEqual([]);
    expect(codeOf(() => peer.takeLine(line(new Uint8Array(3)), 30))).toBe('MESSAGE_INVALID');
    peer.sendFrame(new Uint8Array(1_000));
    peer.takeLine(line(encodeHandled(1_000)), 30);
    expect(rooms).toEqual([peer]);
  });
});

describe('what is sent to somebody who does not read', () => {
  it('pictures are dropped, and who cannot even take words is cut and comes back', () => {
    const { peer, socket } = newPeer();
    expect(peer.sendFrame(new Uint8Array(10))).toBe(true);
    socket.bufferedAmount = 5 * 1024 * 1024;
    expect(peer.sendFrame(new Uint8Array(10))).toBe(false);
    peer.send({ type: 'beat', sentAtMs: 1 });
    expect(socket.closed).toBeUndefined();
    socket.bufferedAmount = 17 * 1024 * 1024;
    peer.send({ type: 'beat', sentAtMs: 2 });
    expect(socket.closed?.reason).toBe('SILENT');
  });

  it('after the end nothing: no word, no picture, no file', () => {
    const { peer, socket } = newPeer();
    peer.close('REPLACED');
    const before = socket.sent.length;
    peer.send({ type: 'beat', sentAtMs: 1 });
    expect([peer.sendFrame(new Uint8Array(10)), peer.sendBulk(new Uint8Array(10))]).toEqual([false, false]);
    expect(socket.sent.length).toBe(before);
  });

  it('the line has room until too much is on its way, and says when it has some again', () => {
    const { peer, rooms } = newPeer();
    let sentBytes = 0;
    while (peer.hasRoom) {
      peer.sendFrame(new Uint8Array(4_096));
      sentBytes += 4_096;
    }
    expect(sentBytes).toBeLessThanOrEqual(64 * 1024);
    peer.takeLine(line(encodeHandled(sentBytes)), 30);
    expect([rooms.length, peer.hasRoom]).toEqual([1, true]);
  });
});
