import type { Captured } from '@porch/client';
import { FrameCutter, SilenceGate, type ChannelCount } from '@porch/sound';
import { OpusEncoder } from './opus.ts';

/** Samples as they come to packets as they go: cut, silence left out, encoded. */
export class EncodingCapture {
  readonly #encoder: OpusEncoder;
  readonly #cutter: FrameCutter;
  readonly #gate = new SilenceGate();
  #silentFrames = 0;
  #isClosed = false;

  constructor(channels: ChannelCount, kind: 'programs' | 'voice', take: (captured: Captured) => void) {
    this.#encoder = new OpusEncoder(channels, kind);
    this.#cutter = new FrameCutter(channels, (frame) => {
      const { isSilent, peak } = this.#gate.take(frame);
      const opus = isSilent ? undefined : this.#encoder.encode(frame);
      if (!opus) {
        this.#silentFrames++;
        return;
      }
      const silentFrames = this.#silentFrames;
      this.#silentFrames = 0;
      take({ channels, opus, silentFrames, peak });
    });
  }

  add(samples: Float32Array): void {
    if (!this.#isClosed) this.#cutter.add(samples);
  }
  setBitrate(bitsPerSecond: number): void {
    if (!this.#isClosed) this.#encoder.setBitrate(bitsPerSecond);
  }
  close(): void {
    if (this.#isClosed) return;
    this.#isClosed = true;
    this.#encoder.close();
  }
}
