import { runs } from '@porch/testkit';
import fc from 'fast-check';
import sharp from 'sharp';
import { expect, it } from 'vitest';
import { cleanJpeg } from './clean-jpeg.ts';
import { JpegStream } from './jpeg-stream.ts';
import { hasLamp, jpegSizes, sizeFor } from './v4l2-listing.ts';

const jpegOf = (red: number, optimiseCoding = false) =>
  sharp({ create: { width: 48, height: 32, channels: 3, background: { r: red, g: 90, b: 60 } } })
    .jpeg({ optimiseCoding })
    .toBuffer();
const segmentsOf = (bytes: Buffer): number[] => {
  const markers: number[] = [];
  for (let at = 2; bytes[at + 1] !== 0xda; at += 2 + bytes.readUInt16BE(at + 2)) markers.push(bytes[at + 1] ?? 0);
  return markers;
};
const withSegment = (jpeg: Buffer, marker: number, body: Buffer) => {
  const length = body.length + 2;
  const head = Buffer.from([0xff, marker, length >> 8, length & 0xff]);
  return Buffer.concat([jpeg.subarray(0, 2), head, body, jpeg.subarray(2)]);
};

it('cuts what follows one another into the same pictures, however it comes in pieces, and leaves out what is none', async () => {
  const pictures = await Promise.all([10, 120, 250].map((red) => jpegOf(red)));
  // A small picture within the head of another one, as cameras put it there.
  const nested = withSegment(pictures[0] as Buffer, 0xe1, (pictures[1] as Buffer).subarray(0, 600));
  const all = [...pictures, nested];
  const noise = fc.uint8Array({ maxLength: 30 }).map((bytes) => Buffer.from(bytes.map((b) => b % 0xff)));
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.nat(3), noise), { maxLength: 6 }),
      fc.array(fc.integer({ min: 1, max: 700 }), { minLength: 1 }),
      (row, cuts) => {
        const stream = Buffer.concat(row.flatMap(([i, between]) => [between, all[i] as Buffer]));
        const cutter = new JpegStream(64 * 1024);
        const found: Uint8Array[] = [];
        for (let at = 0, i = 0; at < stream.length; i++) {
          const to = at + (cuts[i % cuts.length] ?? 1);
          found.push(...cutter.take(stream.subarray(at, to)));
          at = to;
        }
        expect(found.map((one) => Buffer.from(one))).toEqual(row.map(([i]) => all[i]));
      },
    ),
    runs(),
  );
});

it('goes on after what is broken or endless, and keeps no more than one picture may have', async () => {
  const good = await jpegOf(10);
  const cutter = new JpegStream(4 * good.length);
  const broken = Buffer.from([0xff, 0xd8, 0xff, 0x00, 0, 0]);
  expect(cutter.take(Buffer.concat([broken, good])).map((one) => one.length)).toEqual([good.length]);
  const endless = Buffer.concat([good.subarray(0, -2), Buffer.alloc(8 * good.length, 1)]);
  cutter.take(endless);
  expect(cutter.take(good).concat(cutter.take(good)).length).toBeGreaterThan(0);
});

it('leaves nothing but the picture, and puts in the tables that cameras leave out', async () => {
  const whole = await jpegOf(200);
  const noted = withSegment(withSegment(whole, 0xe1, Buffer.from('Exif\0\0where')), 0xfe, Buffer.from('with what'));
  const clean = Buffer.from(cleanJpeg(noted) as Uint8Array);
  expect(clean.equals(whole)).toBe(true);
  // Without its tables nobody could read it; with the typical ones it is the same picture.
  const parts = [whole.subarray(0, 2)];
  for (let at = 2; ;) {
    if (whole[at + 1] === 0xda) {
      parts.push(whole.subarray(at));
      break;
    }
    const to = at + 2 + whole.readUInt16BE(at + 2);
    if (whole[at + 1] !== 0xc4) parts.push(whole.subarray(at, to));
    at = to;
  }
  const bare = Buffer.concat(parts);
  expect(segmentsOf(bare)).not.toContain(0xc4);
  const mended = await sharp(cleanJpeg(bare)).raw().toBuffer();
  expect(mended.equals(await sharp(whole).raw().toBuffer())).toBe(true);
  // One that brings its own keeps them.
  const own = await jpegOf(200, true);
  expect(Buffer.from(cleanJpeg(own) as Uint8Array).equals(own)).toBe(true);
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 400 }), (bytes) => {
      expect(cleanJpeg(bytes)?.length ?? 0).toBeLessThanOrEqual(bytes.length + 500);
    }),
    runs(),
  );
});

const LISTING = `ioctl: VIDIOC_ENUM_FMT
	Type: Video Capture

	[0]: 'YUYV' (YUYV 4:2:2)
		Size: Discrete 640x480
			Interval: Discrete 0.033s (30.000 fps)
	[1]: 'MJPG' (Motion-JPEG, compressed)
		Size: Discrete 1280x720
			Interval: Discrete 0.033s (30.000 fps)
		Size: Discrete 320x240
		Size: Stepwise 32x32 - 1920x1080 with step 8/8
		Size: Discrete 1920x1080
	[2]: 'H264' (H.264, compressed)
		Size: Discrete 3840x2160
`;

it('reads which sizes a camera gives by itself, and takes the one that is wanted', () => {
  const sizes = jpegSizes(LISTING);
  expect(sizes.map(({ width, height }) => `${width}x${height}`)).toEqual(['320x240', '1280x720', '1920x1080']);
  expect([100, 320, 1_279, 1_280, 9_999].map((longest) => sizeFor(sizes, longest)?.width)).toEqual([
    320, 320, 320, 1_280, 1_920,
  ]);
  expect(jpegSizes('')).toEqual([]);
  expect(sizeFor([], 640)).toBeUndefined();
  fc.assert(
    fc.property(fc.string(), (text) => {
      expect(jpegSizes(text)).toEqual([]);
    }),
    runs(),
  );
});

it('knows a lamp that can stay on from a flash and from none', () => {
  expect(hasLamp('   led_mode 0x009c0901 (menu)   : min=0 max=2 default=0 value=0 (Off)')).toBe(true);
  expect(hasLamp('   led_mode 0x009c0901 (menu)   : min=0 max=1 default=0 value=0 (Off)')).toBe(false);
  expect(hasLamp('   brightness 0x00980900 (int)    : min=0 max=255 step=1 default=128 value=128')).toBe(false);
});
