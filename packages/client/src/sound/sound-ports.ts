import type { SoundPacket } from '@porch/wire';
import type { TalkState } from './talk-state.ts';

/* What captures and plays sound differs from system to system; these are the seams. */

/** 20 ms of what is captured; silence is left out. */
export interface Captured extends Pick<SoundPacket, 'channels' | 'opus'> {
  /** So many frames of silence were before it. */
  readonly silentFrames: number;
  /** How loud it was at its loudest, 0 to 1. */
  readonly peak: number;
}
export interface Capture {
  setBitrate(bitsPerSecond: number): void;
  /** Nothing is captured meanwhile. */
  setMuted(isMuted: boolean): void;
  stop(): void;
}
/** Where one speaker is heard, together with all others. */
export interface VoiceOut {
  /** `lost` packets before this one never came. */
  take(packet: SoundPacket, lost: number): void;
  /** How loud they were lately, 0 to 1. */
  readonly peak: number;
  close(): void;
}
/** A microphone, and where others are heard. */
export interface VoicePort {
  /** `onGone`: there is none, or none any longer. */
  openMicrophone(take: (captured: Captured) => void, onGone: () => void): Capture;
  speaker(): VoiceOut;
  /** Where a page shows who speaks. */
  show?(now: TalkState): void;
  /** Everything that was opened is closed. */
  close?(): void;
}
