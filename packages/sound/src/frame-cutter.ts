import { FRAME_SAMPLES, type ChannelCount } from './format.ts';

/** Cuts samples as they come into frames of 20 ms. What it hands out is used again for the next frame. */
export class FrameCutter {
  readonly #frame: Float32Array;
  readonly #take: (frame: Float32Array) => void;
  #filled = 0;

  constructor(channels: ChannelCount, take: (frame: Float32Array) => void) {
    this.#frame = new Float32Array(FRAME_SAMPLES * channels);
    this.#take = take;
  }

  add(samples: Float32Array): void {
    for (let at = 0; at < samples.length;) {
      const part = samples.subarray(at, at + this.#frame.length - this.#filled);
      this.#frame.set(part, this.#filled);
      this.#filled += part.length;
      at += part.length;
      if (this.#filled < this.#frame.length) return;
      this.#filled = 0;
      this.#take(this.#frame);
    }
  }
}
