import fc from 'fast-check';
import { expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import { PlaneWatch, type PlaneColours } from './index.ts';

const colours = fc.record({
  isFullRange: fc.boolean(),
  matrix: fc.constantFrom('bt709', 'smpte170m', 'bt2020-ncl', null),
}) satisfies fc.Arbitrary<PlaneColours>;
const stroke = fc.record({
  plane: fc.nat(2),
  at: fc.nat(),
  length: fc.integer({ min: 1, max: 90 }),
  value: fc.nat(255),
});
const frames = fc.array(fc.array(stroke, { maxLength: 4 }), { minLength: 2, maxLength: 5, size: 'max' });
const sizes = fc.record({ width: fc.integer({ min: 1, max: 600 }), height: fc.integer({ min: 1, max: 140 }) });

/** In one string, since comparing numbers one by one takes a test's runner seconds. */
const told = (pieces: ReturnType<PlaneWatch['take']>) =>
  pieces
    .map(
      ({ rect, pixels }) =>
        JSON.stringify(rect) + Buffer.from(pixels.buffer, pixels.byteOffset, pixels.byteLength).toString('latin1'),
    )
    .join();

it('what is told as changed, put together, is the whole frame; compiled and plain tell the same', () => {
  fc.assert(
    fc.property(sizes, colours, frames, ({ width, height }, how, all) => {
      const [compiled, plain] = [new PlaneWatch(width, height, 'wasm'), new PlaneWatch(width, height, 'plain')];
      const shown = new Uint32Array(width * height);
      for (const [n, strokes] of all.entries()) {
        for (const { plane, at, length, value } of strokes) {
          const { offset, stride } = compiled.layout[plane as 0 | 1 | 2];
          const [w, h] = plane === 0 ? [width, height] : [(width + 1) >> 1, (height + 1) >> 1];
          const from = offset + (at % h) * stride + (at % w);
          const to = Math.min(from + length, offset + (at % h) * stride + w);
          for (const watch of [compiled, plain]) watch.bytes.fill(value, from, to);
        }
        const pieces = compiled.take(how, false);
        expect(told(plain.take(how, false)) === told(pieces), 'both tell the same').toBe(true);
        if (n > 0 && !strokes.length) expect(pieces.length, 'nothing changed').toBe(0);
        for (const { rect, pixels } of pieces)
          for (let y = 0; y < rect.height; y++)
            shown.set(pixels.subarray(y * rect.width, (y + 1) * rect.width), (rect.y + y) * width + rect.x);
      }
      const whole = compiled.take(how, true);
      expect(told([{ rect: { x: 0, y: 0, width, height }, pixels: shown }]) === told(whole), 'the frame').toBe(true);
    }),
    runs(),
  );
});

it('makes the colours of ITU-T H.273: studio range by BT.709, full range by BT.601', () => {
  const colourOf = (how: PlaneColours, ...yuv: [number, number, number]) => {
    const watch = new PlaneWatch(2, 2, 'plain');
    watch.layout.forEach(({ offset, stride }, plane) => watch.bytes.fill(yuv[plane] ?? 0, offset, offset + stride));
    return watch.take(how, true)[0]?.pixels[0]?.toString(16);
  };
  const studio: PlaneColours = { isFullRange: false, matrix: 'bt709' };
  const full: PlaneColours = { isFullRange: true, matrix: 'smpte170m' };
  expect([colourOf(studio, 16, 128, 128), colourOf(studio, 235, 128, 128)]).toEqual(['0', 'ffffff']);
  expect([colourOf(full, 0, 128, 128), colourOf(full, 255, 128, 128)]).toEqual(['0', 'ffffff']);
  // Pure red in each: luma and chroma as the standards' formulas give them, rounded.
  expect(colourOf(studio, 63, 102, 240)).toMatch(/^f[ef]0[01]0[01]$/);
  expect(colourOf(full, 76, 85, 255)).toMatch(/^fe0[01]0[01]$/);
});
