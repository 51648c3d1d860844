import { SAMPLE_RATE_HZ } from '@porch/sound';
import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { createConnection } from 'node:net';
import { join } from 'node:path';
import type { ChildProcess } from 'node:child_process';
import { giveTo, type Account } from './account.ts';
import type { Starter } from './processes.ts';
import { READY_MS } from './x-windows.ts';

/** The sound server of a stand-in computer: no sound card, but speakers and a microphone that programs cannot tell from real ones. */
export interface Sound {
  /** Where programs find it. */
  readonly env: NodeJS.ProcessEnv;
  readonly server: ChildProcess;
  /** Plays a WAV file: on the speakers, or into the microphone as if somebody spoke there. */
  play(file: string, where?: 'speakers' | 'microphone'): ChildProcess;
  /** Again and again, with so many seconds between. */
  repeat(file: string, pauseSeconds: number, where: 'speakers' | 'microphone'): ChildProcess;
}

interface SoundOptions {
  readonly name: string;
  readonly home: string;
  readonly account?: Account | undefined;
}

/** Speakers that lead nowhere, and a microphone into which a program can speak. */
const settings = `load-module module-native-protocol-unix
load-module module-null-sink norewinds=1 sink_name=speakers rate=48000 format=s16le channels=2 sink_properties=device.description=Speakers
load-module module-null-sink norewinds=1 sink_name=mic_feed rate=48000 format=s16le channels=1 sink_properties=device.description=MicFeed
load-module module-remap-source master=mic_feed.monitor source_name=microphone source_properties=device.description=Microphone
set-default-sink speakers
set-default-source microphone
`;

/** PulseAudio for one stand-in computer; resolves once programs can be heard. */
export async function startSound(
  starter: Starter,
  { name, home, account }: SoundOptions,
  hasMicrophone = true,
): Promise<Sound> {
  const folder = join(home, 'pulse');
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const file = join(folder, 'default.pa');
  writeFileSync(file, hasMicrophone ? settings : settings.replace(/^.*mic.*\n/gm, ''));
  if (account) giveTo(account, home);
  const socket = join(folder, 'native');
  const env = {
    HOME: home,
    XDG_RUNTIME_DIR: home,
    PULSE_RUNTIME_PATH: folder,
    PULSE_SERVER: `unix:${socket}`,
    PULSE_COOKIE: join(home, '.config', 'pulse', 'cookie'),
  };
  const server = starter.start(
    `sound of ${name}`,
    'pulseaudio',
    [
      ...['-n', '--daemonize=no', '--exit-idle-time=-1', '--use-pid-file=no', '--disallow-exit', '--disable-shm=yes'],
      ...['--log-level=error', '-F', file],
    ],
    { env: { ...process.env, ...env, DBUS_SESSION_BUS_ADDRESS: 'disabled:' }, cwd: home, stdio: 'ignore', ...account },
  );
  await answers(server, socket);
  const start = (wav: string, command: string, args: readonly string[]) =>
    starter.start(`${wav.split('/').at(-1)} of ${name}`, command, args, {
      env: { ...process.env, ...env },
      cwd: home,
      stdio: 'ignore',
      ...account,
    });
  const playing = (wav: string, where: 'speakers' | 'microphone') => [
    ...(where === 'microphone' ? ['--device=mic_feed'] : []),
    '--latency-msec=30',
    wav,
  ];
  return {
    env,
    server,
    play: (wav, where = 'speakers') => start(wav, 'paplay', playing(wav, where)),
    repeat: (wav, pauseSeconds, where) =>
      start(wav, 'sh', [
        ...['-c', 'while paplay "$@"; do sleep "$0"; done', String(pauseSeconds)],
        ...playing(wav, where),
      ]),
  };
}

async function answers(server: ChildProcess, socket: string): Promise<void> {
  const giveUpAtMs = Date.now() + READY_MS;
  while (Date.now() < giveUpAtMs && server.exitCode === null) {
    const isThere =
      existsSync(socket) &&
      (await new Promise<boolean>((resolve) => {
        const tried = createConnection(socket);
        tried.once('connect', () => {
          tried.destroy();
          resolve(true);
        });
        tried.once('error', () => resolve(false));
      }));
    if (isThere) return;
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
  throw new Error(`the sound server was not ready in time (${server.exitCode ?? 'still starting'})`);
}

/** A WAV file (RIFF, PCM of 16 bits, one channel) of what `sampleAt` says of each second's moment. */
export function writeWav(file: string, seconds: number, sampleAt: (second: number) => number): void {
  const count = Math.round(seconds * SAMPLE_RATE_HZ);
  const bytes = Buffer.alloc(44 + count * 2);
  bytes.write('RIFF', 0);
  bytes.writeUInt32LE(36 + count * 2, 4);
  bytes.write('WAVEfmt ', 8);
  bytes.writeUInt32LE(16, 16);
  bytes.writeUInt16LE(1, 20);
  bytes.writeUInt16LE(1, 22);
  bytes.writeUInt32LE(SAMPLE_RATE_HZ, 24);
  bytes.writeUInt32LE(SAMPLE_RATE_HZ * 2, 28);
  bytes.writeUInt16LE(2, 32);
  bytes.writeUInt16LE(16, 34);
  bytes.write('data', 36);
  bytes.writeUInt32LE(count * 2, 40);
  for (let i = 0; i < count; i++)
    bytes.writeInt16LE(Math.round(Math.max(-1, Math.min(1, sampleAt(i / SAMPLE_RATE_HZ))) * 32_767), 44 + i * 2);
  writeFileSync(file, bytes);
}

const tone = (hz: number, second: number) => Math.sin(2 * Math.PI * hz * second);

/** The signal before a sailing is called: two notes that fade. */
export const chimeAt = (second: number): number =>
  [
    [659, 0],
    [523, 0.5],
  ].reduce(
    (sum, [hz = 0, from = 0]) => (second < from ? sum : sum + 0.3 * tone(hz, second) * Math.exp(-(second - from) * 3)),
    0,
  );
/** What stands in for somebody who speaks: a hum that rises and falls in syllables. It says nothing. */
export const hummingAt = (second: number): number =>
  0.25 *
  Math.max(0, Math.sin(2 * Math.PI * 2.5 * second)) *
  (tone(150, second) + 0.5 * tone(300, second) + 0.3 * tone(900, second));

/** Something to hear: the signal of the next sailing now and then, and somebody who hums in front of the microphone. */
export function soundLived(sound: Sound, home: string, account: Account | undefined): void {
  const [chime, humming] = [join(home, 'chime.wav'), join(home, 'humming.wav')];
  writeWav(chime, 2, chimeAt);
  writeWav(humming, 6, hummingAt);
  if (account) for (const file of [chime, humming]) giveTo(account, file);
  sound.repeat(chime, 10, 'speakers');
  sound.repeat(humming, 4, 'microphone');
}
