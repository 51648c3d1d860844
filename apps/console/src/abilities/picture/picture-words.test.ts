import { describe, expect, it } from 'vitest';
import { limitWords, oldWords, rateWords } from './picture-words.ts';

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
    expect([oldWords(undefined), oldWords(3_000)]).toEqual(['', '']);
    expect(oldWords(7_400)).toBe('This picture is 7 seconds old. Your input waits until it is fresh again.');
  });
  it('name what limits it, the nearest cause first', () => {
    expect(limitWords(source('their-line'), 900, now(9_000))).toBe('Their line is the limit');
    expect(limitWords(source('their-computer'), 900, now(0))).toBe('Their computer is the limit');
    expect(limitWords(source('nothing'), 20, now(9_000))).toBe('Your line is the limit');
    expect(limitWords(source('chosen'), 300, now(0))).toBe('Your line is slow');
    expect(limitWords(source('chosen'), 20, now(0))).toBe('What you chose is the limit');
    expect(limitWords(undefined, 20, undefined)).toBe('Nothing limits it');
  });
  it('count bits as people read them', () => {
    expect([rateWords(999), rateWords(256_000), rateWords(1_250_000)]).toEqual([
      '999 bit/s',
      '256 kbit/s',
      '1.3 Mbit/s',
    ]);
  });
});
