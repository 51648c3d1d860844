import { inBackground, type Capture, type Captured } from '@porch/client';
import { limit, peakOf, Playout, samplesIn } from '@porch/sound';
import type { Clock } from '@porch/wire';
import type { PulseAudio } from 'pulseaudio.js';
import { EncodingCapture } from './encoding-capture.ts';
import { everyTenMs } from './pace.ts';
import type { SoundServer } from './sound-server.ts';
import { recordFrom } from './streams.ts';

const CHANNELS = 2;
/** From one program to this one on the same computer. */
const LOCAL_DELAY_MS = 10;
/** What is silent for longer than silence takes to be told needs no mixing. */
const REST_SAMPLES = samplesIn(500);
/** More programs that play at once than these nobody could tell apart. */
const MOST_PROGRAMS = 16;
/** The speakers themselves, among the numbers of streams. */
const SPEAKERS = -1;

interface Heard {
  readonly playout: Playout;
  stop(): void;
}

/**
 * What the speakers play, as long as none of it is ours: so the shortest signal is heard from its beginning. While voices are
 * played there, every other program's own stream, mixed: nobody hears their own voice.
 */
export class ProgramsCapture implements Pick<Capture, 'setBitrate' | 'stop'> {
  readonly #server: SoundServer;
  readonly #clock: Clock;
  readonly #encoding: EncodingCapture;
  readonly #heard = new Map<number, Heard>();
  readonly #offs: (() => void)[];
  #endPacing: (() => void) | undefined;
  #looking: Promise<void> = Promise.resolve();
  #quiet = 0;
  #isStopped = false;

  constructor(server: SoundServer, clock: Clock, take: (captured: Captured) => void) {
    this.#server = server;
    this.#clock = clock;
    this.#encoding = new EncodingCapture(CHANNELS, 'programs', take);
    const look = () => {
      // What is about to be ours must not be in it for a moment.
      if (server.isPlaying) this.#drop(SPEAKERS);
      // One after the other: two that look at once would both open the same stream.
      this.#looking = this.#looking.then(() => this.#look()).catch(() => undefined); // The server went: `there` says so.
    };
    this.#offs = [
      server.listeners.on('inputs', look),
      server.listeners.on('there', (isThere) => {
        if (!isThere) this.#dropAll();
        look();
      }),
    ];
    look();
    inBackground('looking for programs that play', this.#looking);
  }

  setBitrate(bitsPerSecond: number): void {
    this.#encoding.setBitrate(bitsPerSecond);
  }
  stop(): void {
    this.#isStopped = true;
    this.#offs.forEach((off) => off());
    this.#dropAll();
    this.#encoding.close();
  }

  async #look(): Promise<void> {
    const { pulse } = this.#server;
    if (!pulse || this.#isStopped) return;
    const wanted = new Set<number>(this.#server.isPlaying ? await othersPlaying(pulse) : [SPEAKERS]);
    for (const tap of this.#heard.keys()) if (!wanted.has(tap)) this.#drop(tap);
    for (const tap of wanted)
      if (!this.#heard.has(tap) && this.#heard.size < MOST_PROGRAMS) await this.#open(pulse, tap);
  }

  async #open(pulse: PulseAudio, tap: number): Promise<void> {
    const playout = new Playout(CHANNELS, LOCAL_DELAY_MS);
    const from = tap === SPEAKERS ? { source: '@DEFAULT_MONITOR@' } : { input: tap };
    const drop = () => this.#heard.delete(tap);
    // It may have ended before it could be opened: then it is not heard, and the next look does not find it.
    const take = (samples: Float32Array) => this.#take(playout, samples);
    const stream = await recordFrom(pulse, from, CHANNELS, take, drop).catch(() => undefined);
    if (!stream) return;
    if (this.#isStopped || this.#server.pulse !== pulse) stream.stop();
    else this.#heard.set(tap, { playout, stop: () => stream.stop() });
  }

  /** While nothing is heard nothing runs. */
  #take(playout: Playout, samples: Float32Array): void {
    if (playout.waitingMs === 0 && peakOf(samples) === 0) return;
    playout.add(samples);
    this.#quiet = 0;
    if (!this.#isStopped) this.#endPacing ??= everyTenMs(this.#clock, (count) => this.#mix(count));
  }
  #mix(samples: number): void {
    const mixed = new Float32Array(samples * CHANNELS);
    for (const { playout } of this.#heard.values()) playout.mixInto(mixed, CHANNELS);
    limit(mixed);
    this.#encoding.add(mixed);
    this.#quiet += samples;
    if (this.#quiet > REST_SAMPLES) this.#rest();
  }
  #rest(): void {
    this.#endPacing?.();
    this.#endPacing = undefined;
  }

  #drop(tap: number): void {
    this.#heard.get(tap)?.stop();
    this.#heard.delete(tap);
  }
  #dropAll(): void {
    for (const heard of this.#heard.values()) heard.stop();
    this.#heard.clear();
    this.#rest();
  }
}

interface InputRow {
  readonly index: number;
  readonly properties?: { readonly application?: { readonly process?: { readonly id?: string } } };
}
/** The streams of all programs but this one. */
async function othersPlaying(pulse: PulseAudio): Promise<number[]> {
  const rows = (await pulse.getSinkInputList()) as unknown as readonly InputRow[];
  return rows
    .filter(({ properties }) => properties?.application?.process?.id !== String(process.pid))
    .map(({ index }) => index);
}
