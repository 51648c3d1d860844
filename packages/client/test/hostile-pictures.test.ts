import { ViewerPicture, jpegSize, PictureError, readPhoto } from '@porch/screen';
import {
  contentHead,
  contentKey,
  contentNonce,
  encodeFrameHeader,
  frameKinds,
  joinContent,
  realRandomness,
} from '@porch/wire';
import fc from 'fast-check';
import jpeg from 'jpeg-js';
import { createCipheriv } from 'node:crypto';
import { inflateRawSync } from 'node:zlib';
import { runs } from '@porch/testkit/seeds';
import { expect, it } from 'vitest';
import { PictureViewer } from '../src/index.ts';

const SESSION = '00000000-0000-4000-8000-000000000001';
const SECRET = 'ab'.repeat(32);
const START = 'source.start';
const scope = { sessionId: SESSION, sourceStart: START, epoch: 1, channel: 'screen' as const, display: 0 };

function sealed(kind: number, counter: bigint, clear: Uint8Array, plain: Uint8Array): Uint8Array {
  const header = encodeFrameHeader({
    channel: 'screen',
    kind,
    display: 0,
    senderSeat: 2,
    receiverSeat: 0,
    epoch: 1,
    displayGeneration: 1,
    counter,
  });
  const head = contentHead(header, clear);
  const cipher = createCipheriv('aes-256-gcm', contentKey(SECRET, scope), contentNonce(counter));
  cipher.setAAD(head);
  const body = Buffer.concat([cipher.update(plain), cipher.final(), cipher.getAuthTag()]);
  return joinContent(head, body);
}

function photoBody(width: number, height: number, bytes: Uint8Array): Uint8Array {
  const body = new Uint8Array(8 + bytes.length);
  const view = new DataView(body.buffer);
  view.setUint16(4, width);
  view.setUint16(6, height);
  body.set(bytes, 8);
  return body;
}
const small = () => jpeg.encode({ width: 16, height: 16, data: Buffer.alloc(16 * 16 * 4, 120) }, 60).data;
/** A picture of a few hundred bytes that says it has gigabytes. */
function bomb(width: number, height: number): Uint8Array {
  const bytes = new Uint8Array(small());
  for (let at = 2; at < bytes.length; at += 2 + (((bytes[at + 2] ?? 0) << 8) | (bytes[at + 3] ?? 0)))
    if (bytes[at + 1] === 0xc0) {
      const view = new DataView(bytes.buffer, bytes.byteOffset);
      view.setUint16(at + 5, height);
      view.setUint16(at + 7, width);
      break;
    }
  return bytes;
}

it('reads the size of a JPEG from its header, and of nothing else', () => {
  expect(jpegSize(small())).toEqual({ width: 16, height: 16 });
  expect(jpegSize(bomb(60_000, 60_000))).toEqual({ width: 60_000, height: 60_000 });
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 400 }), fc.nat(399), (noise, cut) => {
      jpegSize(noise);
      jpegSize(small().subarray(0, cut));
      jpegSize(new Uint8Array([0xff, 0xd8, ...noise]));
    }),
    runs(),
  );
});

it('decodes no photo that says another size than its message, and goes on after a broken one', async () => {
  const decoded: number[] = [];
  const viewer = new PictureViewer({
    now: () => performance.now(),
    random: realRandomness,
    display: 0,
    inflate: (bytes, size) => inflateRawSync(bytes, { maxOutputLength: Math.max(1, size) }),
    decodePhoto: (bytes) => {
      decoded.push(bytes.length);
      // What a decoder makes of broken bytes: anything at all.
      if (bytes.length % 2) return Promise.reject(new RangeError('out of memory'));
      const { width, height, data } = jpeg.decode(bytes, { useTArray: true });
      return Promise.resolve({ width, height, rgba: data });
    },
    onPainted: () => undefined,
    onHandled: () => undefined,
  });
  viewer.setKey({ epoch: 1, secret: SECRET, sessionId: SESSION, sourceStart: START, mySeat: 1 });
  const noClear = new Uint8Array(0);
  let counter = 0n;
  const send = (body: Uint8Array) => viewer.take(sealed(frameKinds.screen.photo, ++counter, noClear, body));
  send(photoBody(16, 16, bomb(60_000, 60_000)));
  send(photoBody(60_000, 60_000, bomb(60_000, 60_000)));
  send(photoBody(16, 16, new Uint8Array([1, 2, 3])));
  await viewer.settled();
  expect([decoded, viewer.standing.refused]).toEqual([[], 3]);
  const odd = small();
  send(photoBody(16, 16, odd.length % 2 ? odd : new Uint8Array([...odd, 0])));
  send(photoBody(16, 16, odd));
  await viewer.settled();
  expect(viewer.standing.refused, 'each is refused by itself, and the chain goes on').toBe(5);
  expect(decoded.length).toBeGreaterThan(0);
});

it('takes no memory for a display that says it is larger than what is shown', () => {
  const picture = new ViewerPicture((bytes) => bytes, 'plain', 1024 * 1024);
  const clear = new Uint8Array(64);
  const view = new DataView(clear.buffer);
  view.setUint16(0, 8_192);
  view.setUint16(2, 8_192);
  const before = process.memoryUsage().arrayBuffers;
  expect(() => picture.take({ kind: 'change', number: 1, generation: 1, clear, body: new Uint8Array(1) })).toThrow(
    PictureError,
  );
  expect(process.memoryUsage().arrayBuffers - before).toBeLessThan(8 * 1024 * 1024);
  expect(() => readPhoto(photoBody(16_000, 16_000, new Uint8Array(4)))).toThrow(PictureError);
});
