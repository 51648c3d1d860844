import { sealedChannels, type SealedName } from './abilities/index.ts';
import { AppError } from './errors.ts';

/*
 * Binary message, protocol version 2. Big-endian; the payload runs to the end of the message.
 *
 *   0         1         2         3         4               6               8
 *   | version | channel | kind    | display | sender seat   | receiver seat | …
 *   8                   12                  16                              24
 *   | epoch             | display generation| counter (64 bit)              | payload …
 *
 * Receiver seat 0 means every viewer. The counter belongs to (sender start, epoch, channel, display, direction): it
 * numbers messages on the screen channel and is the nonce of sealed ones. The relay reads headers and clear parts only.
 */
export const FRAME_HEADER_BYTES = 24;
export const FRAME_VERSION = 2;
export const EVERY_VIEWER = 0;
/** The whole desktop as one display, whatever monitors it has. */
export const ALL_MONITORS = 100;
/** A thumbnail of display n is display n + 128: a picture of its own, small and seldom. */
export const THUMBNAIL_FROM = 128;

/**
 * Pictures go to everybody who may look, sealed with the epoch's key; `line` is between a program and the relay; the others
 * are abilities' own, sealed between two participants. 5 was one channel for several of them.
 */
export const channels: Readonly<Record<'screen' | 'cursor' | 'line' | SealedName, number>> = {
  screen: 1,
  cursor: 2,
  line: 6,
  ...(Object.fromEntries(sealedChannels.map(({ name, id }) => [name, id])) as Record<SealedName, number>),
};
export type Channel = keyof typeof channels;
const channelNames = new Map<number, Channel>(Object.entries(channels).map(([name, n]) => [n, name as Channel]));
if (channelNames.size !== Object.keys(channels).length) throw new Error('two channels have the same number');

/** What a message is, within its channel. The registry is in docs/protocol.md; an unknown kind is refused. */
export const frameKinds = {
  screen: { change: 1, whole: 2, photo: 3, checkpoint: 4, want: 5, holds: 6 },
  cursor: { shape: 1, position: 2 },
  line: { handled: 1 },
} as const;
/** The one kind of every sealed channel. */
export const SEALED_KIND = 1;

/** What a participant may send in one message; the socket is closed at a larger one. */
export const MAX_FRAME_BYTES = 512 * 1024;
export const MAX_TEXT_BYTES = 64 * 1024;

export interface FrameHeader {
  readonly channel: Channel;
  readonly kind: number;
  readonly display: number;
  readonly senderSeat: number;
  readonly receiverSeat: number;
  readonly epoch: number;
  readonly displayGeneration: number;
  readonly counter: bigint;
}
export interface Frame extends FrameHeader {
  readonly payload: Uint8Array;
}

export function encodeFrameHeader(h: FrameHeader): Uint8Array {
  const bytes = new Uint8Array(FRAME_HEADER_BYTES);
  const view = new DataView(bytes.buffer);
  view.setUint8(0, FRAME_VERSION);
  view.setUint8(1, channels[h.channel]);
  view.setUint8(2, h.kind);
  view.setUint8(3, h.display);
  view.setUint16(4, h.senderSeat);
  view.setUint16(6, h.receiverSeat);
  view.setUint32(8, h.epoch);
  view.setUint32(12, h.displayGeneration);
  view.setBigUint64(16, h.counter);
  return bytes;
}

export function encodeFrame(frame: Frame): Uint8Array {
  const bytes = new Uint8Array(FRAME_HEADER_BYTES + frame.payload.byteLength);
  bytes.set(encodeFrameHeader(frame));
  bytes.set(frame.payload, FRAME_HEADER_BYTES);
  return bytes;
}

/** What passes between a program and the relay itself: nothing in it is sealed, so it has no epoch and no nonce. */
export const encodeRelayFrame = (frame: Pick<Frame, 'channel' | 'kind' | 'payload'> & Partial<Frame>): Uint8Array =>
  encodeFrame({
    display: 0,
    senderSeat: 0,
    receiverSeat: 0,
    epoch: 0,
    displayGeneration: 0,
    counter: 0n,
    ...frame,
  });

const knownKinds = new Map<Channel, ReadonlySet<number>>([
  ...Object.entries(frameKinds).map(
    ([name, kinds]) => [name as Channel, new Set<number>(Object.values(kinds))] as const,
  ),
  ...sealedChannels.map(({ name }) => [name, new Set([SEALED_KIND])] as const),
]);

/** The payload is a view on `bytes`, not a copy: keep it only as long as the message. Throws MESSAGE_INVALID. */
export function decodeFrame(bytes: Uint8Array): Frame {
  if (bytes.byteLength < FRAME_HEADER_BYTES || bytes[0] !== FRAME_VERSION) throw new AppError('MESSAGE_INVALID');
  const view = new DataView(bytes.buffer, bytes.byteOffset, FRAME_HEADER_BYTES);
  const channel = channelNames.get(view.getUint8(1));
  const kind = view.getUint8(2);
  if (!channel || !knownKinds.get(channel)?.has(kind)) throw new AppError('MESSAGE_INVALID');
  return {
    channel,
    kind,
    display: view.getUint8(3),
    senderSeat: view.getUint16(4),
    receiverSeat: view.getUint16(6),
    epoch: view.getUint32(8),
    displayGeneration: view.getUint32(12),
    counter: view.getBigUint64(16),
    // Not `subarray`: of Node's own buffers it makes another such buffer, which costs as much as all the rest here.
    payload: new Uint8Array(bytes.buffer, bytes.byteOffset + FRAME_HEADER_BYTES, bytes.byteLength - FRAME_HEADER_BYTES),
  };
}
