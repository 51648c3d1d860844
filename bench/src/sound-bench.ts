import { technicianTalk, TechnicianSound, type Captured, type LiveConnection, type VoiceOut } from '@porch/client';
import type { Permission } from '@porch/core';
import { writeWav, type Sound, type XDesktop } from '@porch/demo';
import { FRAME_SAMPLES, peakOf, SAMPLE_RATE_HZ } from '@porch/sound';
import { OpusDecoder, OpusEncoder, recordFrom, SoundServer } from '@porch/sound-server';
import { realClock } from '@porch/wire';
import { join } from 'node:path';
import { processorMs, sleep, until } from './bench-house.ts';
import { quantile } from './numbers.ts';
import type { Row } from './row.ts';

const CLICKS = 20;
const LOUD = 0.1;
const LOST_MS = 1_000;
/** What did not come by then is not coming. */
const NEVER_MS = 3_000;
const REST_MS = 1_000;
/** What a browser's playout and output add, said in its own numbers and not measured here. */
const PLAYOUT_MS = 40;

/** From a program's speaker to the samples at the technician, what capturing costs, and a voice the other way. */
export async function soundRows(
  technician: LiveConnection,
  desktop: XDesktop,
  doorstepPid: number,
  agree: (permission: Permission) => Promise<unknown>,
): Promise<Row[]> {
  const { sound, home } = desktop;
  if (!sound) return [];
  await agree('hear-sound');
  const heard = new ClickEar();
  const hearing = new TechnicianSound(technician, () => heard.out);
  hearing.setOn(true);
  const there = await SpeakersEar.open(sound.env);
  const toTechnician = await clicks(sound, home, heard, there);
  const { quiet, playing } = await costs(sound, home, heard, doorstepPid);
  hearing.close();
  await agree('speak-together');
  const toThem = await voices(technician, there);
  there.close();
  return [
    {
      what: `sound: at their speakers → decoded at the technician (a page then waits ${PLAYOUT_MS} ms and plays)`,
      value: inMs(toTechnician),
      aim: '150 ms to the ear',
    },
    { what: 'sound: Doorstep while a tone plays, stereo', value: playing, aim: '–' },
    { what: 'sound: Doorstep while it listens and nothing plays', value: quiet, aim: '–' },
    { what: 'voice: spoken by the technician → at their speakers', value: inMs(toThem), aim: '150 ms' },
  ];
}

const inMs = (values: number[]): string =>
  `${quantile(values, 0.5)?.toFixed(0)} ms, p95 ${quantile(values, 0.95)?.toFixed(0)} ms`;

async function clicks(sound: Sound, home: string, heard: ClickEar, there: SpeakersEar): Promise<number[]> {
  const click = join(home, 'click.wav');
  writeWav(click, 0.06, (s) => Math.sin(2 * Math.PI * 1_000 * s) * 0.9);
  const took: number[] = [];
  for (let n = 0; n < CLICKS; n++) {
    heard.forget();
    there.forget();
    const player = sound.play(click);
    await until('the click to be heard', () => heard.hasHeard && there.hasHeard);
    took.push(heard.at - there.at);
    await until('the player to be done', () => player.exitCode !== null);
    await sleep(400);
  }
  return took;
}

async function costs(sound: Sound, home: string, heard: ClickEar, pid: number) {
  const tone = join(home, 'tone.wav');
  writeWav(tone, 30, (s) => Math.sin(2 * Math.PI * 440 * s) * 0.3);
  const during = async (seconds: number) => {
    const [before, bytesBefore] = [processorMs(pid), heard.bytes];
    await sleep(seconds * 1_000);
    const share = (processorMs(pid) - before) / (seconds * 10);
    return `${share.toFixed(1)} % of a core, ${(((heard.bytes - bytesBefore) * 8) / seconds / 1_000).toFixed(0)} kbit/s`;
  };
  const quiet = await during(5);
  const player = sound.play(tone);
  await sleep(1_000);
  const playing = await during(10);
  player.kill();
  await sleep(1_000);
  return { quiet, playing };
}

/** A technician whose microphone clicks when it is told to. */
async function voices(technician: LiveConnection, there: SpeakersEar): Promise<number[]> {
  let isClicking = false;
  let spokenAtMs = 0;
  const encoder = new OpusEncoder(1, 'voice');
  const talk = technicianTalk(technician, {
    speaker: () => ({ peak: 0, take: () => undefined, close: () => undefined }),
    openMicrophone: (take: (captured: Captured) => void) => {
      const timer = setInterval(() => {
        const loud = isClicking ? 0.8 : 0.004;
        const frame = Float32Array.from(
          { length: FRAME_SAMPLES },
          (_, i) => loud * Math.sin((2 * Math.PI * 1_000 * i) / SAMPLE_RATE_HZ),
        );
        if (isClicking) spokenAtMs ||= performance.now();
        isClicking = false;
        const opus = encoder.encode(frame);
        if (opus) take({ channels: 1, opus, silentFrames: 0, peak: loud });
      }, 20);
      return { setBitrate: () => undefined, setMuted: () => undefined, stop: () => clearInterval(timer) };
    },
  });
  talk.changed();
  talk.open();
  await sleep(1_500);
  const took: number[] = [];
  for (let n = 0; n < CLICKS; n++) {
    there.forget();
    spokenAtMs = 0;
    isClicking = true;
    await until('the voice to be heard', () => {
      // One packet of 20 ms, and a packet may be lost: then another one is said.
      if (!there.hasHeard && spokenAtMs && performance.now() - spokenAtMs > LOST_MS) {
        spokenAtMs = 0;
        isClicking = true;
      }
      return there.hasHeard;
    });
    took.push(there.at - spokenAtMs);
    await sleep(300);
  }
  talk.close();
  return took;
}

/** When something loud first came. */
class FirstLoud {
  #atMs: number | undefined;

  get hasHeard(): boolean {
    return this.#atMs !== undefined;
  }
  get at(): number {
    return this.#atMs ?? NaN;
  }
  forget(): void {
    this.#atMs = undefined;
  }
  take(samples: Float32Array): void {
    if (peakOf(samples) > LOUD) this.#atMs ??= performance.now();
  }
}

/** How long clicks take over a line on which some may never come; how many were made. */
export async function clicksOverLine(
  technician: LiveConnection,
  sound: Sound,
  home: string,
): Promise<{ took: number[]; of: number }> {
  const heard = new ClickEar();
  const hearing = new TechnicianSound(technician, () => heard.out);
  hearing.setOn(true);
  const there = await SpeakersEar.open(sound.env);
  const click = join(home, 'click.wav');
  writeWav(click, 0.06, (s) => Math.sin(2 * Math.PI * 1_000 * s) * 0.9);
  const took: number[] = [];
  for (let n = 0; n < CLICKS; n++) {
    // What is left of the click before is none of this one.
    await sleep(REST_MS);
    heard.forget();
    there.forget();
    const player = sound.play(click);
    await until('the player to be done', () => player.exitCode !== null);
    for (const untilMs = performance.now() + NEVER_MS; !heard.hasHeard && performance.now() < untilMs;) await sleep(20);
    if (heard.hasHeard) took.push(heard.at - there.at);
  }
  hearing.close();
  there.close();
  return { took, of: CLICKS };
}

class ClickEar extends FirstLoud {
  bytes = 0;
  readonly #decoders = { 1: new OpusDecoder(1), 2: new OpusDecoder(2) };
  readonly out: VoiceOut = {
    peak: 0,
    take: ({ channels, opus }) => {
      this.bytes += opus.length;
      const samples = this.#decoders[channels].decode(opus);
      if (samples) this.take(samples);
    },
    close: () => undefined,
  };
}

/** The same at their speakers, by a program of its own. */
class SpeakersEar extends FirstLoud {
  readonly #close: () => void;

  private constructor(close: () => void) {
    super();
    this.#close = close;
  }
  static async open(env: NodeJS.ProcessEnv): Promise<SpeakersEar> {
    const server = await SoundServer.open(realClock, env);
    const { pulse } = server;
    if (!pulse) throw new Error('the computer has no sound server');
    const ear: SpeakersEar = new SpeakersEar(() => {
      stream.stop();
      server.close();
    });
    const stream = await recordFrom(
      pulse,
      { source: 'speakers.monitor' },
      1,
      (samples) => ear.take(samples),
      () => undefined,
    );
    return ear;
  }
  close(): void {
    this.#close();
  }
}
