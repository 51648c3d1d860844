import { expect, it } from 'vitest';
import { MovedRate } from './rate.ts';

it('tells how fast a file moves over the last seconds, and how long it takes yet', () => {
  const rate = new MovedRate();
  const at = (ms: number, bytes: number) => rate.progress('a', bytes, 10_000, ms);
  expect(at(0, 0)).toMatchObject({ bytesPerSecond: undefined, leftMs: undefined });
  expect(at(200, 200).bytesPerSecond).toBeUndefined();
  expect(at(1_000, 1_000)).toMatchObject({ bytesPerSecond: 1_000, leftMs: 9_000 });
  // What was long ago does not count: it is twice as fast now.
  for (let ms = 2_000; ms <= 9_000; ms += 500) at(ms, 1_000);
  expect(at(9_100, 1_000), 'nothing moves').toMatchObject({ bytesPerSecond: 0, leftMs: undefined });
  rate.forget();
  expect(at(9_200, 1_000).bytesPerSecond).toBeUndefined();
  expect(at(10_200, 3_000)).toMatchObject({ bytesPerSecond: 2_000, leftMs: 3_500 });
});
