import { plainOutput } from '@porch/core';
import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { PrintedText } from './printed-text.ts';

const part = fc.constantFrom(
  ...[
    'the ferry ',
    '日本',
    '👍🏽',
    '\n',
    '\u001b[31m',
    '\u001b[0m',
    '\u001b]0;owned\u0007',
    '\u001b]8;;http://a.example\u001b\\',
  ],
  ...['\u001b(B', '\u001b[?2004h', '\u001b=', 'noon'],
);

it('is the same text, however its bytes come', () => {
  fc.assert(
    fc.property(fc.array(part, { maxLength: 30 }), fc.array(fc.nat(), { maxLength: 12 }), (parts, places) => {
      const whole = `${parts.join('')}.`;
      const bytes = new TextEncoder().encode(whole);
      const cuts = [0, ...places.map((place) => place % (bytes.length + 1)).sort((a, b) => a - b), bytes.length];
      const printed = new PrintedText(undefined);
      let taken = 0;
      cuts.slice(1).forEach((end, i) => printed.take(bytes.subarray(cuts[i], end), () => taken++));
      expect(taken).toBe(cuts.length - 1);
      expect(printed.text).toBe(plainOutput(whole));
      expect(printed.text).not.toContain('owned');
    }),
    runs(),
  );
});

it('is kept up to a limit, and what never ends is not waited for', () => {
  const printed = new PrintedText(undefined);
  printed.take(new TextEncoder().encode(`\u001b]0;${'x'.repeat(1_000)}`), () => undefined);
  for (let i = 0; i < 60; i++) printed.take(new Uint8Array(100_000).fill(97), () => undefined);
  expect(printed.isCut).toBe(true);
  expect(printed.text.length).toBe(4 * 1024 * 1024);
});
