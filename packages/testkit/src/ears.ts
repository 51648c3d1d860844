import type { Captured, VoiceOut, VoicePort } from '@porch/client';
import { startDesktop, startSound, writeWav, type Sound, type XDesktop } from '@porch/demo';
import { FRAME_MS, FRAME_SAMPLES, peakOf, SAMPLE_RATE_HZ } from '@porch/sound';
import { OpusDecoder, OpusEncoder, recordFrom, SoundServer } from '@porch/sound-server';
import { realClock } from '@porch/wire';
import { randomBytes } from 'node:crypto';
import { join } from 'node:path';
import type { House } from './house.ts';

/** How loud one pitch is in what was heard, 0 to 1: one bin of a Fourier transform. */
export function loudnessAt(hz: number, samples: ArrayLike<number>): number {
  let [sine, cosine] = [0, 0];
  for (let i = 0; i < samples.length; i++) {
    const angle = (2 * Math.PI * hz * i) / SAMPLE_RATE_HZ;
    sine += (samples[i] ?? 0) * Math.sin(angle);
    cosine += (samples[i] ?? 0) * Math.cos(angle);
  }
  return samples.length ? (2 * Math.hypot(sine, cosine)) / samples.length : 0;
}

/** Somebody at the other end who hears what comes, and whose microphone is told what to say. */
export class Ears implements VoicePort {
  /** The left ear's samples since `forget`. */
  heard: number[] = [];
  packets = 0;
  heardAtMs = 0;
  #isMuted = false;
  #timer: ReturnType<typeof setInterval> | undefined;

  /** `hz`: what their microphone hears; nothing without. */
  readonly hz: number | undefined;
  constructor(hz?: number) {
    this.hz = hz;
  }

  forget(): void {
    this.heard = [];
    this.packets = 0;
  }
  /** How loud a pitch was in the last so many milliseconds that were heard. */
  loudness(hz: number, lastMs = 300): number {
    return loudnessAt(hz, this.heard.slice(-Math.round((SAMPLE_RATE_HZ * lastMs) / 1000)));
  }

  speaker = (): VoiceOut => {
    const decoders = { 1: new OpusDecoder(1), 2: new OpusDecoder(2) };
    return {
      peak: 0,
      take: ({ channels, opus }) => {
        const samples = decoders[channels].decode(opus);
        if (!samples) return;
        this.packets++;
        this.heardAtMs = performance.now();
        for (let i = 0; i < samples.length; i += channels) this.heard.push(samples[i] ?? 0);
        if (this.heard.length > 10 * SAMPLE_RATE_HZ) this.heard = this.heard.slice(-5 * SAMPLE_RATE_HZ);
      },
      close: () => undefined,
    };
  };

  openMicrophone(take: (captured: Captured) => void) {
    const { hz } = this;
    const encoder = new OpusEncoder(1, 'voice');
    let at = 0;
    const sine = () => 0.4 * Math.sin((2 * Math.PI * (hz ?? 0) * at++) / SAMPLE_RATE_HZ);
    const speak = () => {
      const opus = encoder.encode(Float32Array.from({ length: FRAME_SAMPLES }, sine));
      if (opus && !this.#isMuted) take({ channels: 1, opus, silentFrames: 0, peak: 0.4 });
    };
    if (hz !== undefined) this.#timer = setInterval(speak, FRAME_MS);
    return {
      setBitrate: (bits: number) => encoder.setBitrate(bits),
      setMuted: (isMuted: boolean) => void (this.#isMuted = isMuted),
      stop: () => clearInterval(this.#timer),
    };
  }
}

/** What comes out of the speakers of a stand-in computer, heard by a program of its own. */
export class EarAtSpeakers {
  readonly #close: () => void;
  /** Lately, with the loudest of each piece and when it came. */
  #heard: number[] = [];
  #peaks: { readonly atMs: number; readonly peak: number }[] = [];

  private constructor(close: () => void) {
    this.#close = close;
  }

  static async open({ env }: Pick<Sound, 'env'>): Promise<EarAtSpeakers> {
    const server = await SoundServer.open(realClock, env);
    if (!server.pulse) throw new Error('there is no sound server');
    const ear: EarAtSpeakers = new EarAtSpeakers(() => {
      stream.stop();
      server.close();
    });
    const source = { source: 'speakers.monitor' };
    const stream = await recordFrom(
      server.pulse,
      source,
      1,
      (samples) => ear.#take(samples),
      () => undefined,
    );
    return ear;
  }

  loudness(hz: number, lastMs = 300): number {
    return loudnessAt(hz, this.#heard.slice(-Math.round((SAMPLE_RATE_HZ * lastMs) / 1000)));
  }
  /** The loudest of the last second and a half. */
  get peak(): number {
    return Math.max(0, ...this.#peaks.map(({ peak }) => peak));
  }
  forget(): void {
    this.#heard = [];
    this.#peaks = [];
  }
  close(): void {
    this.#close();
  }

  #take(samples: Float32Array): void {
    const atMs = performance.now();
    this.#heard.push(...samples);
    if (this.#heard.length > 4 * SAMPLE_RATE_HZ) this.#heard = this.#heard.slice(-2 * SAMPLE_RATE_HZ);
    this.#peaks = [...this.#peaks.filter((piece) => atMs - piece.atMs < 1_500), { atMs, peak: peakOf(samples) }];
  }
}

/** A WAV file of one pitch. */
export function toneFile(folder: string, hz: number, seconds = 120): string {
  const file = join(folder, `tone-${hz}-${seconds}.wav`);
  writeWav(file, seconds, (second) => 0.4 * Math.sin(2 * Math.PI * hz * second));
  return file;
}

/** A desktop with a sound server of its own, and nothing on either. */
export async function desktopWithSound(
  house: House,
  name: string,
  { hasMicrophone = true, ...size }: { hasMicrophone?: boolean; width?: number; height?: number } = {},
): Promise<{ readonly desktop: XDesktop; readonly sound: Sound }> {
  const home = join(house.folder, `home-${randomBytes(3).toString('hex')}`);
  const bare = await startDesktop(house.processes, { name, home, programs: 'none', ...size });
  const sound = await startSound(house.processes, { name, home }, hasMicrophone);
  return { desktop: { ...bare, sound }, sound };
}
