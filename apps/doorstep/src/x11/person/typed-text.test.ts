import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { characterOf, keysymWith, TypedText } from './typed-text.ts';

const [SHIFT, LOCK, CONTROL, ALT, THIRD] = [1, 2, 4, 8, 0x80];
/** A key of a German keyboard: q, Q, and the sign for at on its third level. */
const Q = [0x71, 0x51, 0x71, 0x51, 0x40, 0x7d9];

describe('what a key writes', () => {
  it('follows Shift, the lock for letters alone, the third level, and the second group', () => {
    expect(keysymWith(Q, 0, 0)).toBe(0x71);
    expect(keysymWith(Q, SHIFT, 0)).toBe(0x51);
    expect(keysymWith(Q, LOCK, 0)).toBe(0x51);
    expect(keysymWith(Q, SHIFT | LOCK, 0)).toBe(0x71);
    expect(keysymWith(Q, THIRD, 0)).toBe(0x40);
    const seven = [0x37, 0x2f, 0x37, 0x2f];
    expect(keysymWith(seven, LOCK, 0), 'a digit has no capital').toBe(0x37);
    expect(keysymWith(seven, SHIFT, 0)).toBe(0x2f);
    const twoGroups = [0x71, 0x51, 0x6ca, 0x6ea];
    expect(characterOf(keysymWith(twoGroups, 0, 1))).toBe('й');
    expect(characterOf(keysymWith(twoGroups, SHIFT, 1))).toBe('Й');
  });

  it('is a character, or nothing for a key that makes none', () => {
    expect([0xe5, 0x20ac, 0xffb7, 0x1000153].map(characterOf)).toEqual(['å', '€', '7', 'œ']);
    expect([0xff0d, 0xffe1, 0xfe03, 0, 0xff52].map(characterOf).join('')).toBe('');
  });
});

describe('what somebody types', () => {
  it('is what they typed, whatever they took back', () => {
    fc.assert(
      fc.property(fc.array(fc.oneof(fc.integer({ min: 0x20, max: 0x7e }), fc.constant(0xff08))), (keysyms) => {
        const typed = new TypedText();
        const expected: string[] = [];
        for (const keysym of keysyms) {
          typed.take(keysym, 0);
          if (keysym === 0xff08) expected.pop();
          else if (expected.length < 200) expected.push(String.fromCodePoint(keysym));
        }
        expect(typed.text).toBe(expected.join(''));
        expect(typed.length).toBe(expected.length);
      }),
      runs(),
    );
  });

  it('takes no shortcut for text, and everything away at once', () => {
    const typed = new TypedText();
    expect(typed.take(0x61, CONTROL)).toBe(false);
    expect(typed.take(0x61, ALT)).toBe(false);
    expect(typed.take(0x40, THIRD | CONTROL)).toBe(true);
    expect(typed.text).toBe('@');
    expect(typed.take(0xff1b, 0)).toBe(true);
    expect(typed.text).toBe('');
  });
});
