// A stand-in camera: answers what Doorstep asks of the system's tool for cameras, about a device that is only a file.
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { once } from 'node:events';
import { setTimeout as sleep } from 'node:timers/promises';
import { parseArgs } from 'node:util';
import { pictureOf, PICTURES_IN_ROUND } from './scene.ts';

const SIZES = [
  [320, 180],
  [640, 360],
  [1280, 720],
  [1920, 1080],
] as const;

const { values } = parseArgs({
  options: {
    device: { type: 'string' },
    'list-formats-ext': { type: 'boolean' },
    'list-ctrls': { type: 'boolean' },
    'set-ctrl': { type: 'string' },
    'set-fmt-video': { type: 'string' },
    'set-parm': { type: 'string' },
    'stream-mmap': { type: 'boolean' },
    'stream-to': { type: 'string' },
  },
});
const fail = (why: string): never => {
  process.stderr.write(`stand-in camera: ${why}\n`);
  process.exit(1);
};
const device = values.device ?? fail('no --device');
if (!existsSync(device)) fail(`${device} is not there`);
/** What the file says is how the camera is: "lit", "busy", or nothing. */
const state = () => readFileSync(device, 'utf8');

if (values['list-formats-ext']) {
  const sizes = SIZES.map(([width, height]) => `\t\tSize: Discrete ${width}x${height}\n`);
  process.stdout.write(`\tType: Video Capture\n\n\t[0]: 'MJPG' (Motion-JPEG, compressed)\n${sizes.join('')}`);
} else if (values['list-ctrls'])
  process.stdout.write('Flash Controls\n\n   led_mode 0x009c0901 (menu)   : min=0 max=2 default=0 value=0 (Off)\n');
else if (values['set-ctrl'] !== undefined) writeFileSync(device, values['set-ctrl'] === 'led_mode=2' ? 'lit' : '');
else if (values['stream-to'] === '-') await stream();
else fail('this stand-in does not know what is wanted');

async function stream(): Promise<void> {
  if (state() === 'busy') fail('VIDIOC_STREAMON returned -1 (Device or resource busy)');
  const [, width = 0, height = 0] = /^width=(\d+),height=(\d+),/.exec(values['set-fmt-video'] ?? '')?.map(Number) ?? [];
  const gapMs = 1_000 / Number(values['set-parm'] ?? 15);
  const made = new Map<string, Buffer>();
  // Whoever reads went: so do we.
  process.stdout.on('error', () => process.exit(0));
  for (let number = 0; existsSync(device); number = (number + 1) % PICTURES_IN_ROUND) {
    const isLit = state() === 'lit';
    const name = `${number} ${isLit}`;
    const picture = made.get(name) ?? (await pictureOf(number, isLit, { width, height }));
    made.set(name, picture);
    if (!process.stdout.write(picture)) await once(process.stdout, 'drain');
    await sleep(gapMs);
  }
  fail(`${device} is not there any longer`);
}
