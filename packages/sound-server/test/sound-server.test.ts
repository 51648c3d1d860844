import type { Captured } from '@porch/client';
import { endProcess, Processes, startSound, type Sound } from '@porch/demo';
import { loudnessAt, toneFile, until } from '@porch/testkit';
import { realClock } from '@porch/wire';
import type { ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync, symlinkSync } from 'node:fs';
import { createServer, type Socket } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { OpusDecoder, OpusEncoder, ProgramsCapture, recordFrom, ServerVoice, SoundServer } from '../src/index.ts';

const processes = new Processes('porch-sound-test');
let home: string;
let sound: Sound;
beforeAll(async () => {
  home = mkdtempSync(join(tmpdir(), 'porch-sound-'));
  sound = await startSound(processes, { name: 'a test', home });
});
afterAll(async () => {
  await processes.stop();
  rmSync(home, { recursive: true, force: true });
});
const toneOf = (hz: number, seconds: number): string => toneFile(home, hz, seconds);
const endedOf = (child: ChildProcess) => new Promise((resolve) => child.once('exit', resolve));
const sine = (hz: number, frames: number, channels: 1 | 2) =>
  Array.from({ length: frames }, (_, n) =>
    Float32Array.from(
      { length: 960 * channels },
      (_x, i) => 0.4 * Math.sin((2 * Math.PI * hz * (n * 960 + Math.floor(i / channels))) / 48_000),
    ),
  );

it('keeps a tone true through Opus, and takes nonsense for nothing', () => {
  for (const [channels, kind] of [
    [1, 'voice'],
    [2, 'programs'],
  ] as const) {
    const [encoder, decoder] = [new OpusEncoder(channels, kind), new OpusDecoder(channels)];
    encoder.setBitrate(48_000);
    const heard: number[] = [];
    for (const frame of sine(440, 50, channels)) {
      const samples = decoder.decode(encoder.encode(frame) ?? new Uint8Array());
      for (let i = 0; i < (samples?.length ?? 0); i += channels) heard.push(samples?.[i] ?? 0);
    }
    expect(loudnessAt(440, heard.slice(9_600))).toBeCloseTo(0.4, 1);
    expect(decoder.decode(new Uint8Array(0))).toBeUndefined();
    expect(decoder.decode(Uint8Array.from({ length: 1_275 }, (_, i) => i))).toBeUndefined();
    encoder.close();
    decoder.close();
  }
});

it('takes one that answers nothing for none, and finds it when it does answer', async () => {
  const path = join(home, 'mute');
  const open = new Set<Socket>();
  const mute = createServer((socket) => void open.add(socket)).listen(path);
  const server = await SoundServer.open(realClock, { ...sound.env, PULSE_SERVER: `unix:${path}` });
  expect(server.pulse).toBeUndefined();
  for (const socket of open) socket.destroy();
  await new Promise((resolve) => mute.close(resolve));
  symlinkSync(sound.env['PULSE_SERVER']?.replace(/^unix:/, '') ?? '', path);
  await until('the one that answers', () => server.pulse);
  server.close();
});

it('captures what programs play, and nothing of what it plays itself', async () => {
  const server = await SoundServer.open(realClock, sound.env);
  const heard: number[] = [];
  const decoder = new OpusDecoder(2);
  const take = ({ opus }: Captured) => {
    const samples = decoder.decode(opus);
    for (let i = 0; i < (samples?.length ?? 0); i += 2) heard.push(samples?.[i] ?? 0);
  };
  const capture = new ProgramsCapture(server, realClock, take);
  const voice = new ServerVoice(server, realClock);
  const encoder = new OpusEncoder(1, 'voice');
  const speaker = voice.speaker();
  const atSpeakers: number[] = [];
  if (!server.pulse) throw new Error('there is no sound server');
  const monitor = await recordFrom(
    server.pulse,
    { source: 'speakers.monitor' },
    1,
    (samples) => atSpeakers.push(...samples),
    () => undefined,
  );
  // Until something of ours is played the shortest signal is heard, too, from its beginning.
  const signal = toneOf(700, 0.06);
  await until('it to listen', async () => (await endedOf(sound.play(signal)), heard.length > 0));
  // A machine that stands still in the middle of one loses it; the next is another.
  await until('most of 60 ms at 0.4', async () => {
    heard.length = 0;
    await endedOf(sound.play(signal));
    const playedAtMs = performance.now();
    await until('what was captured', () => performance.now() - playedAtMs > 200);
    return loudnessAt(700, heard) * (heard.length / 48) > 0.4 * 60 * 0.7;
  });

  let number = 0;
  const frames = sine(620, 500, 1);
  const timer = setInterval(() => {
    const opus = encoder.encode(frames[number] ?? new Float32Array(960));
    if (opus) speaker.take({ number: number++, isFirst: number === 0, channels: 1, opus }, 0);
  }, 20);
  const player = sound.play(toneOf(440, 8));
  const last = (samples: number[]) => samples.slice(-9_600);
  await until('the tone of the other program', () => loudnessAt(440, last(heard)) > 0.3);
  await until(
    'both at the speakers',
    () => loudnessAt(620, last(atSpeakers)) > 0.2 && loudnessAt(440, last(atSpeakers)) > 0.2,
  );
  expect(loudnessAt(620, last(heard))).toBeLessThan(0.01);
  expect(speaker.peak).toBeGreaterThan(0.2);
  clearInterval(timer);
  await endProcess(player);
  await until('silence', () => speaker.peak === 0);
  capture.stop();
  monitor.stop();
  voice.close();
  server.close();
});

it('hears the microphone until it is muted, and says that there is none where speakers are offered as one', async () => {
  const server = await SoundServer.open(realClock, sound.env);
  const voice = new ServerVoice(server, realClock);
  let packets = 0;
  const capture = voice.openMicrophone(
    () => packets++,
    () => undefined,
  );
  const speaking = sound.play(toneOf(300, 30), 'microphone');
  await until('what is said', () => packets > 20);
  capture.setMuted(true);
  const muted = packets;
  const sinceMs = performance.now();
  await until('a while', () => performance.now() - sinceMs > 500);
  expect(packets - muted).toBeLessThanOrEqual(2);
  capture.setMuted(false);
  await until('more', () => packets > muted + 20);
  capture.stop();
  await endProcess(speaking);
  voice.close();
  server.close();

  const bareHome = join(home, 'bare');
  const bare = await startSound(processes, { name: 'no microphone', home: bareHome }, false);
  const bareServer = await SoundServer.open(realClock, bare.env);
  let isGone = false;
  new ServerVoice(bareServer, realClock).openMicrophone(
    () => undefined,
    () => (isGone = true),
  );
  await until('the word', () => isGone);
  bareServer.close();
});

it('finds a server that comes later, and one that was away', async () => {
  const late = join(home, 'late');
  const place = { PULSE_SERVER: `unix:${join(late, 'pulse', 'native')}`, HOME: late };
  const server = await SoundServer.open(realClock, place);
  expect(server.pulse).toBeUndefined();
  for (let n = 0; n < 2; n++) {
    const started = await startSound(processes, { name: 'late', home: late });
    await until('it to be found', () => server.pulse !== undefined);
    await endProcess(started.server);
    await until('it to be missed', () => server.pulse === undefined);
  }
  server.close();
});
