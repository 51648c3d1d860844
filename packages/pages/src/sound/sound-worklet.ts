import { FrameCutter, limit, Playout, SAMPLE_RATE_HZ } from '@porch/sound';
import type { FromPlayer, ToPlayer } from './sound-messages.ts';

/* Runs beside the sound card, where nothing of the page can hold it up (W3C Web Audio API, AudioWorklet). */

declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}
declare function registerProcessor(name: string, processor: new () => AudioWorkletProcessor): void;

const CHANNELS = 2;
const TELL_SAMPLES = SAMPLE_RATE_HZ / 10;

class Player extends AudioWorkletProcessor {
  readonly #speakers = new Map<number, { playout: Playout; channels: 1 | 2; gain: number; peak: number }>();
  readonly #gains = new Map<number, number>();
  #mixed = new Float32Array(256);
  #sinceTold = 0;

  constructor() {
    super();
    this.port.onmessage = ({ data }: MessageEvent<ToPlayer>) => this.#take(data);
  }

  #take(message: ToPlayer): void {
    const { speaker } = message;
    if (message.type === 'gone') {
      this.#speakers.delete(speaker);
      this.#gains.delete(speaker);
    } else if (message.type === 'volume') {
      this.#gains.set(speaker, message.gain);
    } else {
      const { channels, samples, lost } = message;
      const known = this.#speakers.get(speaker);
      const one = known?.channels === channels ? known : { playout: new Playout(channels), channels, gain: 1, peak: 0 };
      if (one !== known) this.#speakers.set(speaker, one);
      one.playout.add(samples, lost);
    }
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const [left, right] = outputs[0] ?? [];
    if (!left) return true;
    if (this.#mixed.length !== left.length * CHANNELS) this.#mixed = new Float32Array(left.length * CHANNELS);
    this.#mixed.fill(0);
    for (const [id, one] of this.#speakers)
      one.peak = Math.max(one.peak, one.playout.mixInto(this.#mixed, CHANNELS, this.#gains.get(id) ?? 1));
    limit(this.#mixed);
    for (let i = 0; i < left.length; i++) {
      left[i] = this.#mixed[2 * i] ?? 0;
      if (right) right[i] = this.#mixed[2 * i + 1] ?? 0;
    }
    this.#sinceTold += left.length;
    if (this.#sinceTold >= TELL_SAMPLES) this.#tell();
    return true;
  }

  #tell(): void {
    this.#sinceTold = 0;
    if (!this.#speakers.size) return;
    const peaks: FromPlayer = [...this.#speakers].map(([speaker, { peak }]) => ({ speaker, peak }));
    for (const one of this.#speakers.values()) one.peak = 0;
    this.port.postMessage(peaks);
  }
}
registerProcessor('porch-player', Player);

class Microphone extends AudioWorkletProcessor {
  readonly #cutter = new FrameCutter(1, (frame) => {
    const copy = frame.slice();
    this.port.postMessage(copy, [copy.buffer]);
  });

  process([input]: Float32Array[][]): boolean {
    const samples = input?.[0];
    if (samples) this.#cutter.add(samples);
    return true;
  }
}
registerProcessor('porch-microphone', Microphone);
