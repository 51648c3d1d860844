import { MAX_SAID_CHARACTERS } from '@porch/core';
import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Printed } from './printed.ts';

const SECRET = 'harbour lamp 88';
/** All that somebody reads who asks for the next piece again and again. */
function readAll(printed: Printed): string {
  let text = '';
  for (let piece = printed.piece(0); piece !== undefined; piece = printed.piece(text.length)) {
    expect(piece.length).toBeGreaterThan(0);
    text += piece;
  }
  return text;
}
const cut = (text: string, at: readonly number[]) => {
  const places = [0, ...at.map((place) => place % (text.length + 1)).sort((a, b) => a - b), text.length];
  return places.slice(1).map((place, i) => text.slice(places[i], place));
};

describe('what a script printed', () => {
  it('shows no secret, and loses nothing else, however its pieces come', () => {
    const words = fc.constantFrom(
      'harbour',
      'harbour lamp',
      SECRET,
      ' ',
      '88',
      'the ferry 👍🏽',
      'h',
      'ha\n',
      SECRET.slice(0, 14),
    );
    fc.assert(
      fc.property(fc.array(words), fc.array(fc.nat()), (parts, at) => {
        const whole = parts.join('');
        const printed = new Printed([SECRET]);
        for (const piece of cut(whole, at)) {
          // A piece is what a decoder gave out: whole characters.
          if (/[\ud800-\udbff]$/.test(piece) || /^[\udc00-\udfff]/.test(piece)) return;
          printed.print(piece);
        }
        printed.finish();
        const text = readAll(printed);
        expect(text).not.toContain(SECRET);
        const expected = whole.replaceAll(SECRET, '•••');
        const begun =
          /(?:harbour lamp 8|harbour lamp |harbour lamp|harbour lam|harbour la|harbour l|harbour |harbour|harbou|harbo|harb)$/.exec(
            expected,
          );
        expect(text).toBe(begun ? expected.slice(0, begun.index) + '•••' : expected);
        expect(printed.kept).toBe(text.length);
      }),
      runs(),
    );
  });

  it('stands in a few entries as it comes, and in one more with its end', () => {
    fc.assert(
      fc.property(fc.array(fc.nat({ max: 9_000 }), { maxLength: 40 }), (sizes) => {
        const printed = new Printed([]);
        const said: string[] = [];
        const say = (isLast?: boolean) => said.push(...[printed.say(isLast)].flatMap((one) => one ?? []));
        for (const [i, size] of sizes.entries()) {
          printed.print(String.fromCharCode(97 + (i % 26)).repeat(size));
          say();
        }
        printed.finish();
        say(true);
        const text = readAll(printed);
        expect(said.length).toBeLessThanOrEqual(13);
        for (const one of said) expect(one.length).toBeLessThanOrEqual(MAX_SAID_CHARACTERS);
        if (said.length) expect(text.endsWith(said.at(-1) ?? '')).toBe(true);
        expect(printed.unsaid).toBe(text.length - said.join('').length);
      }),
      runs(),
    );
  });

  it('is kept up to a limit, and counted beyond it', () => {
    const printed = new Printed([]);
    for (let i = 0; i < 70; i++) printed.print('👍'.repeat(50_000));
    printed.finish();
    expect(printed.total).toBe(7_000_000);
    expect(printed.kept).toBeLessThanOrEqual(4 * 1024 * 1024);
    expect(readAll(printed)).not.toMatch(/[\ud800-\udbff](?![\udc00-\udfff])/);
  });
});
