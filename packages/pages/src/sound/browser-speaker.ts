import type { VoiceOut } from '@porch/client';
import { FRAME_MS, SAMPLE_RATE_HZ } from '@porch/sound';
import type { SoundPacket } from '@porch/wire';
import type { ToPlayer } from './sound-messages.ts';

/** Decoding that falls so far behind is not caught up with. */
const MOST_WAITING = 25;

interface SpeakerParts {
  readonly id: number;
  post(message: ToPlayer, transfer?: Transferable[]): Promise<void>;
  onClose(): void;
  onTrouble(error: unknown): void;
}

/** One who is heard in this page: packets to samples (W3C WebCodecs), and on to the player. */
export class BrowserSpeaker implements VoiceOut {
  readonly #parts: SpeakerParts;
  #decoder: AudioDecoder | undefined;
  #channels: 1 | 2 = 1;
  /** What was lost before each packet that is being decoded. */
  #lost: number[] = [];
  #timestampUs = 0;
  #peak = 0;

  constructor(parts: SpeakerParts) {
    this.#parts = parts;
  }

  get peak(): number {
    return this.#peak;
  }
  setPeak(peak: number): void {
    this.#peak = peak;
  }
  setVolume(gain: number): void {
    this.#say({ type: 'volume', speaker: this.#parts.id, gain });
  }

  take({ channels, opus }: SoundPacket, lost: number): void {
    if (this.#decoder?.state !== 'configured' || channels !== this.#channels) this.#open(channels);
    const decoder = this.#decoder;
    if (!decoder || decoder.decodeQueueSize > MOST_WAITING) return;
    this.#lost.push(lost);
    decoder.decode(new EncodedAudioChunk({ type: 'key', timestamp: this.#timestampUs, data: opus }));
    this.#timestampUs += FRAME_MS * 1_000;
  }

  close(): void {
    if (this.#decoder?.state === 'configured') this.#decoder.close();
    // Of whom nothing was ever played nobody need be told.
    if (this.#decoder) this.#say({ type: 'gone', speaker: this.#parts.id });
    this.#decoder = undefined;
    this.#peak = 0;
    this.#parts.onClose();
  }

  #open(channels: 1 | 2): void {
    if (this.#decoder?.state === 'configured') this.#decoder.close();
    this.#channels = channels;
    this.#lost = [];
    const decoder = new AudioDecoder({
      output: (data) => this.#play(data),
      // A packet that is none ends this decoder; the next one begins anew.
      error: (error) => this.#parts.onTrouble(error),
    });
    decoder.configure({ codec: 'opus', sampleRate: SAMPLE_RATE_HZ, numberOfChannels: channels });
    this.#decoder = decoder;
  }

  #play(data: AudioData): void {
    const channels = data.numberOfChannels === 2 ? 2 : 1;
    const { numberOfFrames } = data;
    const samples = new Float32Array(numberOfFrames * channels);
    const plane = new Float32Array(numberOfFrames);
    for (let channel = 0; channel < channels; channel++) {
      data.copyTo(plane, { planeIndex: channel, format: 'f32-planar' });
      for (let i = 0; i < numberOfFrames; i++) samples[i * channels + channel] = plane[i] ?? 0;
    }
    data.close();
    const lost = this.#lost.shift() ?? 0;
    this.#say({ type: 'samples', speaker: this.#parts.id, channels, samples, lost }, [samples.buffer]);
  }

  #say(message: ToPlayer, transfer?: Transferable[]): void {
    this.#parts.post(message, transfer).catch((error: unknown) => this.#parts.onTrouble(error));
  }
}
