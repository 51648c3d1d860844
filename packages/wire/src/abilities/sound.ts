import { z } from 'zod';
import { AppError } from '../errors.ts';
import { defineChannel } from '../sealed/channel.ts';

/** A packet of Opus is no longer than this for one frame (RFC 6716, section 3.2.1). */
export const MAX_OPUS_BYTES = 1_275;
/** Whoever has said nothing for this long does not listen any longer. */
export const LISTENING_MS = 5_000;
/** How often a listener says what it heard, and a speaker whether its microphone is open. */
export const SAY_HEARD_MS = 1_000;

const frames = z.int().min(0).max(1_000);

/** What both ends of a sound say: it comes again each second, so that one which was lost does no harm. */
export const SoundMessage = z.discriminatedUnion('type', [
  /** Listener → speaker: wanted or not, and what came of the last second, in frames. */
  z.strictObject({
    type: z.literal('listen'),
    isOn: z.boolean(),
    got: frames,
    lost: frames,
    lateMs: z.int().min(0).max(60_000),
  }),
  /** Speaker → listener: whether it would be heard if it spoke. */
  z.strictObject({ type: z.literal('microphone'), is: z.enum(['open', 'muted', 'none']) }),
]);
export type SoundMessage = z.infer<typeof SoundMessage>;

/** What programs on the customer's computer play. */
export const soundChannel = defineChannel({
  name: 'sound',
  id: 13,
  line: 'fresh',
  message: SoundMessage,
  needs: { toCustomer: ['hear-sound'], toDesk: ['hear-sound'] },
  isForDoorstep: true,
  hasChunks: true,
});

/** Microphones: from everybody who may speak to everybody who may. */
export const voiceChannel = defineChannel({
  name: 'voice',
  id: 14,
  line: 'fresh',
  message: SoundMessage,
  needs: { toCustomer: ['speak-together'], toDesk: ['speak-together'] },
  isAmongDesk: true,
  hasChunks: true,
});

export const SOUND_TAG = 2;
const HEAD_BYTES = 6;
const [FIRST, STEREO] = [1, 2];

/** 20 ms of a sound. */
export interface SoundPacket {
  /** Frames since it began, those of silence too, which are not sent. */
  readonly number: number;
  /** Silence was before it. */
  readonly isFirst: boolean;
  readonly channels: 1 | 2;
  /** One packet of Opus, as RFC 6716 has it. */
  readonly opus: Uint8Array;
}

/** | tag 2 | number (4) | first 1, stereo 2 | Opus … | */
export function encodeSound({ number, isFirst, channels, opus }: SoundPacket): Uint8Array {
  const bytes = new Uint8Array(HEAD_BYTES + opus.length);
  bytes[0] = SOUND_TAG;
  new DataView(bytes.buffer).setUint32(1, number >>> 0);
  bytes[5] = (isFirst ? FIRST : 0) | (channels === 2 ? STEREO : 0);
  bytes.set(opus, HEAD_BYTES);
  return bytes;
}

/** Throws MESSAGE_INVALID for what is no sound. */
export function decodeSound(plain: Uint8Array): SoundPacket {
  const flags = plain[5] ?? 0xff;
  if (plain[0] !== SOUND_TAG || plain.length <= HEAD_BYTES || plain.length > HEAD_BYTES + MAX_OPUS_BYTES || flags > 3)
    throw new AppError('MESSAGE_INVALID');
  return {
    number: new DataView(plain.buffer, plain.byteOffset, plain.byteLength).getUint32(1),
    isFirst: (flags & FIRST) !== 0,
    channels: flags & STEREO ? 2 : 1,
    opus: plain.subarray(HEAD_BYTES),
  };
}
