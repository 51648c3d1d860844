import { describe, expect, it } from 'vitest';
import { speechOf } from '@porch/words';
import { limitOf, oldSeconds, rateWords } from './picture-words.ts';

const source = (limit: 'nothing' | 'their-line' | 'their-computer' | 'chosen') => ({
  type: 'sourceNow' as const,
  limit,
  lineBytesPerSecond: 1,
  capturesPerSecond: 1,
  hasWallpaperHidden: false,
});
const now = (ageMs: number | undefined) => ({
  bitsPerSecond: 1,
  framesPerSecond: 1,
  inputDelayMs: undefined,
  ageMs,
  refused: 0,
});

describe('the words about a picture', () => {
  it('say how old it is only when nobody vouched for it for three seconds', () => {
    expect([oldSeconds(undefined), oldSeconds(3_000)]).toEqual([undefined, undefined]);
    expect(oldSeconds(7_400)).toBe(7);
  });
  it('name what limits it, the nearest cause first', () => {
    expect(limitOf(source('their-line'), 900, now(9_000))).toBe('their-line');
    expect(limitOf(source('their-computer'), 900, now(0))).toBe('their-computer');
    expect(limitOf(source('nothing'), 20, now(9_000))).toBe('your-line');
    expect(limitOf(source('chosen'), 300, now(0))).toBe('your-line-slow');
    expect(limitOf(source('chosen'), 20, now(0))).toBe('chosen');
    expect(limitOf(undefined, 20, undefined)).toBe('nothing');
  });
  it('count bits as people read them', () => {
    const [english, german] = [speechOf('en'), speechOf('de')];
    expect(rateWords(1_250_000, german)).toBe('1,3 Mbit/s');
    expect([999, 256_000, 1_250_000].map((rate) => rateWords(rate, english))).toEqual([
      '999 bit/s',
      '256 kbit/s',
      '1.3 Mbit/s',
    ]);
  });
});
