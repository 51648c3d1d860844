import { inBackground, type Capture, type Captured, type VoicePort } from '@porch/client';
import { SAMPLE_RATE_HZ } from '@porch/sound';
import { BrowserMicrophone } from './browser-microphone.ts';
import { BrowserSpeaker } from './browser-speaker.ts';
import type { FromPlayer } from './sound-messages.ts';
import workletUrl from './sound-worklet.ts?worker&url';

/** What a browser needs for any of it: Opus by WebCodecs, and a place beside the sound card. */
export const canPlay = 'AudioDecoder' in globalThis && 'AudioWorkletNode' in globalThis;
export const canSpeak = canPlay && 'AudioEncoder' in globalThis && 'mediaDevices' in navigator;

interface Opened {
  readonly context: AudioContext;
  readonly player: AudioWorkletNode;
}

/** The sound of one page: everybody who is heard, mixed, and its microphone. */
export class BrowserSound implements VoicePort {
  readonly #onTrouble: (error: unknown) => void;
  readonly #speakers = new Map<number, BrowserSpeaker>();
  #opened: Promise<Opened> | undefined;
  #lastSpeaker = 0;
  #microphones = 0;

  /** Hears what goes wrong meanwhile. */
  constructor(onTrouble: (error: unknown) => void) {
    this.#onTrouble = onTrouble;
  }

  speaker = (): BrowserSpeaker => {
    const id = ++this.#lastSpeaker;
    const speaker = new BrowserSpeaker({
      post: (message, transfer = []) =>
        this.#open().then(
          ({ player }) => player.port.postMessage(message, transfer),
          (error: unknown) => this.#onTrouble(error),
        ),
      id,
      onClose: () => {
        this.#speakers.delete(id);
        this.#restIfIdle();
      },
      onTrouble: this.#onTrouble,
    });
    this.#speakers.set(id, speaker);
    return speaker;
  };

  openMicrophone(take: (captured: Captured) => void, onGone: () => void): Capture {
    this.#microphones++;
    const capture = new BrowserMicrophone(async () => (await this.#open()).context, take, onGone, this.#onTrouble);
    let isOver = false;
    return {
      setBitrate: (bitsPerSecond) => capture.setBitrate(bitsPerSecond),
      setMuted: (isMuted) => capture.setMuted(isMuted),
      stop: () => {
        capture.stop();
        if (isOver) return;
        isOver = true;
        this.#microphones--;
        this.#restIfIdle();
      },
    };
  }

  /** Sound needs a press somewhere in the page before; this is called in one. */
  wake(): void {
    inBackground('opening the speakers', this.#open());
  }

  close(): void {
    for (const speaker of [...this.#speakers.values()]) speaker.close();
    const opened = this.#opened;
    this.#opened = undefined;
    opened?.then(({ context }) => context.close()).catch(() => undefined); // Told where it was opened.
  }

  /** A sound card that plays nothing costs a computer its rest. */
  #restIfIdle(): void {
    if (this.#speakers.size || this.#microphones) return;
    this.#opened?.then(({ context }) => context.suspend()).catch(() => undefined); // Told where it was opened.
  }
  async #open(): Promise<Opened> {
    const opened = await this.#openOnce();
    // It may have been at rest, or wait for a press in the page: then it begins with that.
    if (opened.context.state === 'suspended') inBackground('waking the speakers', opened.context.resume());
    return opened;
  }
  #openOnce(): Promise<Opened> {
    this.#opened ??= this.#make().catch((error: unknown) => {
      this.#opened = undefined;
      throw error;
    });
    return this.#opened;
  }
  async #make(): Promise<Opened> {
    const context = new AudioContext({ sampleRate: SAMPLE_RATE_HZ, latencyHint: 'interactive' });
    await context.audioWorklet.addModule(workletUrl);
    const player = new AudioWorkletNode(context, 'porch-player', { numberOfInputs: 0, outputChannelCount: [2] });
    player.connect(context.destination);
    player.port.onmessage = ({ data }: MessageEvent<FromPlayer>) => {
      for (const { speaker, peak } of data) this.#speakers.get(speaker)?.setPeak(peak);
    };
    return { context, player };
  }
}
