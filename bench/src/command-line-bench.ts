import { spawn } from '@lydell/node-pty';
import { LocalPicture, TechnicianCommandLine, WatchedPictures, type LiveConnection } from '@porch/client';
import { sleep, until } from './bench-house.ts';
import { codecs } from './codecs.ts';
import { KeyTimer } from './key-timer.ts';
import { quantile } from './numbers.ts';
import type { Row } from './row.ts';

const KEYS = 100;
const GAP_MS = 30;
const FLOOD_MS = 5_000;
const FLOOD = 'yes "the ferry leaves at noon, with nine cars and a tractor on it"';
const [INTERRUPT, LINE_AWAY] = ['\u0003', '\u0015'];

/** Bytes a second of the same flood behind a terminal that only counts: nothing of ours is in between. */
async function bareFlood(): Promise<number> {
  const pty = spawn('/bin/sh', ['-c', FLOOD], { name: 'xterm', encoding: null });
  let bytes = 0;
  pty.onData((data) => (bytes += data.length));
  await sleep(FLOOD_MS);
  pty.kill('SIGKILL');
  return bytes / FLOOD_MS;
}

interface Now {
  bytes: number;
  /** The end of what was printed. */
  text: string;
  heard(): void;
}

/** Milliseconds from a key to its echo. */
async function echoesOf(line: TechnicianCommandLine, now: Now): Promise<number[]> {
  const echoes: number[] = [];
  for (let i = 0; i < KEYS; i++) {
    const pressedAt = performance.now();
    const echo = new Promise<void>((resolve) => (now.heard = resolve));
    line.keys('a');
    await echo;
    echoes.push(performance.now() - pressedAt);
    await sleep(GAP_MS);
  }
  line.keys(LINE_AWAY);
  return echoes;
}

/** What a flood brings, what it costs keys on their desktop, and how soon it is stopped. */
async function floodOf(line: TechnicianCommandLine, now: Now, keys: KeyTimer) {
  const forAWhile = () => {
    const untilMs = performance.now() + FLOOD_MS;
    return () => performance.now() > untilMs;
  };
  const quietMs = await keys.p95(forAWhile());
  line.keys(`${FLOOD}\r`);
  await until('the flood', () => now.bytes > 2_000_000);
  const [before, from] = [now.bytes, performance.now()];
  const floodedMs = await keys.p95(forAWhile());
  const bytesPerMs = (now.bytes - before) / (performance.now() - from);
  const stoppedAt = performance.now();
  line.keys(INTERRUPT);
  line.keys('echo st""opped\r');
  await until('the flood to end', () => now.text.includes('stopped'));
  return { quietMs, floodedMs, bytesPerMs, stopMs: performance.now() - stoppedAt };
}

/** A command line on their computer: opened, typed on, flooded. `display`: where keys that are pressed meanwhile arrive. */
export async function commandLineRows(technician: LiveConnection, display: string): Promise<Row[]> {
  const line = new TechnicianCommandLine(technician);
  const now: Now = { bytes: 0, text: '', heard: () => undefined };
  line.listeners.on('printed', (bytes) => {
    now.bytes += bytes.length;
    now.text = (now.text + Buffer.from(bytes).toString('latin1')).slice(-200);
    line.took(bytes.length);
    now.heard();
  });
  const begunAt = performance.now();
  await line.open({ lineId: line.newId(), folder: '', columns: 100, rows: 30 });
  await until('a prompt', () => /[$#] $/.test(now.text));
  const openedMs = performance.now() - begunAt;
  const echoes = await echoesOf(line, now);
  const look = new WatchedPictures(technician);
  const picture = new LocalPicture(technician, 0, codecs);
  look.open(picture);
  await until('the picture', () => picture.viewer.picture.isComplete);
  const keys = await KeyTimer.open(technician, picture, display);
  const { quietMs, floodedMs, bytesPerMs, stopMs } = await floodOf(line, now, keys);
  line.shut();
  await until('its end', () => line.now === undefined);
  line.close();
  keys.close();
  look.close();
  const bare = await bareFlood();
  const ms = (value: number | undefined) => `${(value ?? 0).toFixed(1)} ms`;
  return [
    { what: 'command line: asked to its first prompt', value: ms(openedMs), aim: '–' },
    {
      what: 'command line: a key to its echo, on loopback, median / p95',
      value: `${ms(quantile(echoes, 0.5))} / ${ms(quantile(echoes, 0.95))}`,
      aim: '15 ms',
    },
    { what: 'command line: a flood, as it arrives', value: `${(bytesPerMs / 1_000).toFixed(1)} MB/s`, aim: '5 MB/s' },
    {
      what: 'yardstick: the same flood behind a bare terminal',
      value: `${(bare / 1_000).toFixed(1)} MB/s`,
      aim: '–',
    },
    {
      what: 'a key on their desktop, p95: quiet / in that flood',
      value: `${ms(quietMs)} / ${ms(floodedMs)}`,
      aim: '50 ms more',
    },
    { what: 'command line: Ctrl-C in that flood to the next answer', value: ms(stopMs), aim: '–' },
  ];
}
