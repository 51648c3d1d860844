import type { Capture, Captured, VoiceOut, VoicePort } from '@porch/client';
import { limit, Playout, samplesIn, type ChannelCount } from '@porch/sound';
import type { Clock, SoundPacket } from '@porch/wire';
import { EncodingCapture } from './encoding-capture.ts';
import { OpusDecoder } from './opus.ts';
import { everyTenMs } from './pace.ts';
import type { SoundServer } from './sound-server.ts';
import { recordFrom, Speakers } from './streams.ts';

const CHANNELS = 2;
/** What is played nowhere for so long needs no place to be played. */
const QUIET_SAMPLES = samplesIn(2_000);
const NO_INDEX = 0xffff_ffff;
/** How fast what is shown of a level falls, in each 10 ms. */
const FALL = 0.9;

/** The microphone and the speakers of this account's sound server. */
export class ServerVoice implements VoicePort {
  readonly #server: SoundServer;
  readonly #out: SpeakersMix;

  constructor(server: SoundServer, clock: Clock) {
    this.#server = server;
    this.#out = new SpeakersMix(server, clock);
  }

  openMicrophone(take: (captured: Captured) => void, onGone: () => void): Capture {
    return new MicrophoneCapture(this.#server, take, onGone);
  }
  speaker(): VoiceOut {
    return this.#out.speaker();
  }
  /** All that were opened are closed. */
  close(): void {
    this.#out.close();
  }
}

interface SourceRow {
  readonly name: string;
  /** Whose speakers it listens to, if anybody's. */
  readonly monitor: { readonly index: number };
}

/** Closed wholly while it is muted: the computer itself shows that nobody listens. */
class MicrophoneCapture implements Capture {
  readonly #server: SoundServer;
  readonly #encoding: EncodingCapture;
  readonly #onGone: () => void;
  readonly #off: () => void;
  #stream: { stop(): void } | undefined;
  #isMuted = false;
  #isStopped = false;
  #turn = 0;

  constructor(server: SoundServer, take: (captured: Captured) => void, onGone: () => void) {
    this.#server = server;
    this.#onGone = onGone;
    this.#encoding = new EncodingCapture(1, 'voice', take);
    this.#off = server.listeners.on('there', () => this.#follow());
    this.#follow();
  }

  setBitrate(bitsPerSecond: number): void {
    this.#encoding.setBitrate(bitsPerSecond);
  }
  setMuted(isMuted: boolean): void {
    this.#isMuted = isMuted;
    this.#follow();
  }
  stop(): void {
    this.#isStopped = true;
    this.#off();
    this.#follow();
    this.#encoding.close();
  }

  #follow(): void {
    const turn = ++this.#turn;
    this.#stream?.stop();
    this.#stream = undefined;
    const { pulse } = this.#server;
    if (!pulse || this.#isMuted || this.#isStopped) return;
    const isOver = () => turn !== this.#turn;
    const open = async () => {
      const source = (await pulse.getSourceInfo()) as SourceRow | undefined;
      // Where there is no microphone the server offers to listen to its own speakers.
      if (!source || source.monitor.index !== NO_INDEX) {
        if (!isOver()) this.#onGone();
        return;
      }
      const stream = await recordFrom(
        pulse,
        { source: source.name },
        1,
        (samples) => {
          if (!isOver()) this.#encoding.add(samples);
        },
        () => undefined, // The server says when it goes.
      );
      if (isOver()) stream.stop();
      else this.#stream = stream;
    };
    open().catch(() => {
      if (!isOver() && this.#server.pulse === pulse) this.#onGone();
    });
  }
}

/** All who speak, mixed into one stream that is there while anybody does. */
class SpeakersMix {
  readonly #server: SoundServer;
  readonly #clock: Clock;
  readonly #speakers = new Set<Speaker>();
  #endPlaying: (() => void) | undefined;
  #opened: Promise<Speakers | undefined> | undefined;
  #out: Speakers | undefined;
  #endPacing: (() => void) | undefined;
  #quiet = 0;

  constructor(server: SoundServer, clock: Clock) {
    this.#server = server;
    this.#clock = clock;
  }

  speaker(): VoiceOut {
    const speaker = new Speaker(
      () => this.#wake(),
      () => this.#speakers.delete(speaker),
    );
    this.#speakers.add(speaker);
    return speaker;
  }
  close(): void {
    for (const speaker of this.#speakers) speaker.close();
    this.#sleep();
  }

  #wake(): void {
    this.#quiet = 0;
    this.#endPlaying ??= this.#server.beginPlaying();
    this.#endPacing ??= everyTenMs(this.#clock, (samples) => this.#mix(samples));
    const { pulse } = this.#server;
    if (this.#opened || !pulse) return;
    const opened: Promise<Speakers | undefined> = Speakers.open(pulse, CHANNELS, () => {
      if (this.#opened === opened) this.#opened = this.#out = undefined;
    }).catch(() => undefined); // The server went, or has nothing to play on: nothing is heard meanwhile.
    this.#opened = opened;
    opened
      .then((out) => {
        if (this.#opened === opened) this.#out = out;
        else out?.close();
        if (!out && this.#opened === opened) this.#opened = undefined;
      })
      .catch(() => undefined); // Never: it was caught before.
  }
  #sleep(): void {
    this.#endPacing?.();
    this.#endPacing = undefined;
    this.#endPlaying?.();
    this.#endPlaying = undefined;
    this.#out?.close();
    this.#opened = this.#out = undefined;
  }

  #mix(samples: number): void {
    const mixed = new Float32Array(samples * CHANNELS);
    let peak = 0;
    for (const speaker of this.#speakers) peak = Math.max(peak, speaker.mixInto(mixed));
    this.#quiet = peak > 0 ? 0 : this.#quiet + samples;
    if (this.#quiet > QUIET_SAMPLES) return this.#sleep();
    limit(mixed);
    this.#out?.write(mixed);
  }
}

/** One who speaks. */
class Speaker implements VoiceOut {
  readonly #onSound: () => void;
  readonly #onClose: () => void;
  #channels: ChannelCount | undefined;
  #decoder: OpusDecoder | undefined;
  #playout: Playout | undefined;
  #peak = 0;

  constructor(onSound: () => void, onClose: () => void) {
    this.#onSound = onSound;
    this.#onClose = onClose;
  }

  get peak(): number {
    return this.#peak;
  }

  take({ channels, opus }: SoundPacket, lost: number): void {
    if (channels !== this.#channels) {
      this.#decoder?.close();
      this.#decoder = new OpusDecoder(channels);
      this.#playout = new Playout(channels);
      this.#channels = channels;
    }
    const samples = this.#decoder?.decode(opus);
    if (!samples) return;
    this.#playout?.add(samples, lost);
    this.#onSound();
  }

  mixInto(out: Float32Array): number {
    const peak = this.#playout?.mixInto(out, CHANNELS) ?? 0;
    this.#peak = Math.max(peak, this.#peak * FALL);
    if (this.#peak < 0.001) this.#peak = 0;
    return Math.max(peak, this.#playout?.waitingMs ?? 0);
  }

  close(): void {
    this.#decoder?.close();
    this.#decoder = undefined;
    this.#playout = undefined;
    this.#channels = undefined;
    this.#peak = 0;
    this.#onClose();
  }
}
