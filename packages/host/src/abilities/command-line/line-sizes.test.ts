import { VirtualClock } from '@porch/testkit/virtual-clock';
import { expect, it } from 'vitest';
import { LineSizes } from './line-sizes.ts';

it('takes the first size at once, and of many that follow the last one after a while', () => {
  const time = new VirtualClock();
  const taken: number[] = [];
  const sizes = new LineSizes(time, (columns) => taken.push(columns));
  for (let columns = 80; columns < 180; columns++) sizes.set(columns, 24);
  expect(taken).toEqual([80]);
  time.advance(100);
  expect(taken).toEqual([80, 179]);
  time.advance(1_000);
  sizes.set(60, 24);
  expect(taken).toEqual([80, 179, 60]);
  sizes.set(61, 24);
  sizes.close();
  time.advance(1_000);
  expect(taken).toEqual([80, 179, 60]);
});
