import { deflateRawSync } from 'node:zlib';
import { FileTransfers, type FileSink } from '@porch/client';
import { House, lookAt, SlowLine, until } from '@porch/testkit';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { allowed, sharing } from './bare-doorstep.ts';

/** 256 kbit/s and 300 ms there and back. */
const QUALITY = { bytesPerSecond: 32_000, delayMs: 150 };
/** What waits behind whatever else is on this line waits longer. */
const BEHIND_A_FILE_MS = 4_000;
const WIDTH = 640;
const HEIGHT = 400;

let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

/** A technician on a bad line, and a customer whose screen the test paints. */
async function onBadLine(whose: 'technician' | 'customer') {
  const line = await SlowLine.open(house.url, QUALITY);
  const s = await house.sessionUnderWay('Pim Aldersey', undefined, whose === 'technician' ? line.over : undefined);
  const doorstep = await house.bareDoorstep({ link: s.link }, whose === 'customer' ? line.over : undefined);
  await until('Doorstep', () => s.technician.state.holderId);
  const { painted } = sharing(doorstep, WIDTH, HEIGHT);
  painted.fill(0xf4efe2);
  await allowed(s.technician, doorstep, 'view-screen', 'control-input');
  await allowed(s.technician, doorstep, 'fetch-files');
  const seen = lookAt(s.technician);
  await until('the picture, vouched for', seen.isFresh);
  return { ...s, doorstep, painted, line, ...seen };
}
/** Something of the size of a letter, in a colour of its own. */
function type(painted: { pixels: Uint32Array; captureAll(): void }, n: number): number {
  const colour = 0x100000 + n;
  for (let y = 0; y < 16; y++)
    for (let x = 0; x < 9; x++)
      painted.pixels[(40 + y) * WIDTH + 20 + (n % 60) * 10 + x] = (x * y + n) % 3 ? colour : 0xffffff;
  painted.captureAll();
  return colour;
}
const median = (values: number[]) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? Infinity;

describe.each(['technician', 'customer'] as const)('a bad line of the %s', (whose) => {
  it('shows what is typed long before the file that is on its way, and nothing queues up', async () => {
    const { technician, doorstep, painted, line, pixels } = await onBadLine(whose);
    const [sending, receiving] = [new FileTransfers(doorstep), new FileTransfers(technician)];
    const bytes = new Uint8Array(2_000_000).map((_, i) => i * 31);
    const fileId = await sending.offer(
      { name: 'log.txt', sizeBytes: bytes.length, read: (at, length) => Promise.resolve(bytes.slice(at, at + length)) },
      technician.participantId,
    );
    await until('the offer', () => technician.state.slices.files[fileId]);
    let arrived = 0;
    const sink: FileSink = {
      write: (part) => Promise.resolve(void (arrived += part.length)),
      finish: () => Promise.resolve(),
      discard: () => Promise.resolve(),
    };
    await receiving.accept(fileId, sink);
    await until('the file to be on its way', () => arrived > 20_000);
    line.down.forget();
    line.up.forget();
    const delays: number[] = [];
    for (let n = 1; n <= 12; n++) {
      const startedAt = performance.now();
      const colour = type(painted, n);
      await until('the letter', () => pixels().includes(colour));
      delays.push(performance.now() - startedAt);
    }
    expect(arrived, 'the file went on meanwhile').toBeGreaterThan(30_000);
    expect(arrived, 'and was not there yet').toBeLessThan(bytes.length);
    // The file alone fills this line for a minute. How quick a letter is when the machine is, too, the bench tells.
    expect(median(delays)).toBeLessThan(BEHIND_A_FILE_MS);
    const queued = (part: number) => Math.max(line.down.queuedBytes(part), line.up.queuedBytes(part));
    expect(queued(0.9), 'hardly ever waits half a second of the line').toBeLessThan(QUALITY.bytesPerSecond / 2);
    // A machine that stalls for a moment brings one burst; a queue without a bound would hold the whole file.
    expect(queued(1), 'and never more than a second and a half').toBeLessThan(1.5 * QUALITY.bytesPerSecond);
    await Promise.all([sending.close(), receiving.close()]);
    line.close();
  });
});

it('shows a whole new screen of text exactly, once and in few bytes', async () => {
  const { painted, line, pixels, picture } = await onBadLine('technician');
  const before = picture.viewer.picture.newestNumber;
  let bytes = 0;
  const take = picture.viewer.take.bind(picture.viewer);
  picture.viewer.take = (raw) => {
    bytes += raw.byteLength;
    take(raw);
  };
  painted.paint((x, y) =>
    Math.imul(Math.floor(x / 3) * 7 + Math.floor(y / 5) * 31, 2_654_435_761) >>> 28 < 4 ? 0x202020 : 0xffffff,
  );
  await until('the same pixels', () => pixels().every((p, i) => p === painted.pixels[i]));
  expect(picture.viewer.picture.newestNumber).toBeGreaterThan(before);
  const packed = deflateRawSync(Uint32Array.from(painted.pixels), { level: 9 }).length;
  expect(bytes, 'beside the same pixels, packed as hard as can be').toBeLessThan(2 * packed);
  line.close();
});

it('is complete again soon after the line was gone for twenty seconds, says meanwhile how old the picture is, and replays no input', async () => {
  const { technician, painted, line, pixels, picture, lease, isFresh, doorstep } = await onBadLine('technician');
  const inputs: number[] = [];
  doorstep.on('frame', ({ frame }) => frame.channel === 'input' && inputs.push(frame.senderSeat));
  line.cut();
  await until('the line to be gone', () => technician.status !== 'live');
  await until('twenty seconds to pass by the picture itself', () => (picture.standing.ageMs ?? 0) > 20_000);
  lease.open();
  expect(lease.act({ act: 'text', text: 'typed into the void' }), 'nothing is kept for later').toBe(false);
  const colour = type(painted, 40);
  const before = inputs.length;
  let bytes = 0;
  const take = picture.viewer.take.bind(picture.viewer);
  picture.viewer.take = (raw) => {
    bytes += raw.byteLength;
    take(raw);
  };
  line.mend();
  await until('the line', () => technician.status === 'live');
  await until('the change', () => pixels().includes(colour));
  await until('it to be vouched for', isFresh);
  // What is missing is a letter and a checkpoint: next to nothing beside what was there before.
  expect(bytes).toBeLessThan(QUALITY.bytesPerSecond / 2);
  expect(inputs.length).toBe(before);
  line.close();
});

it('a colleague on a slow line changes nothing for the one on a swift line', async () => {
  const line = await SlowLine.open(house.url, QUALITY);
  const s = await house.sessionUnderWay();
  const doorstep = await house.bareDoorstep({ link: s.link });
  await until('Doorstep', () => s.technician.state.holderId);
  const { painted } = sharing(doorstep, WIDTH, HEIGHT);
  painted.fill(0x334455);
  await allowed(s.technician, doorstep, 'view-screen');
  const swift = lookAt(s.technician);
  await until('the picture', swift.isFresh);
  await s.technician.command({
    type: 'requestHandover',
    handoverId: crypto.randomUUID(),
    toTechnicianId: 'rune',
    remark: 'Look.',
  });
  const rest = await house.signedIn('Rune Takahashi');
  const [offer] = (await rest.porch()).handovers;
  await rest.answerHandover(offer?.handoverId ?? '', 'accept');
  const rune = await house.technician(rest, s.id, line.over);
  // Nothing of theirs moves until the last letter is there: whoever waited for them would wait for ever.
  line.stall();
  for (let n = 1; n <= 20; n++) {
    const colour = type(painted, n);
    await until('the letter', () => swift.pixels().includes(colour));
  }
  line.resume();
  expect(rune.status).toBe('live');
  line.close();
});
