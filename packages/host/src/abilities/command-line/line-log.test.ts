import { MAX_LINE_PRINTED_CHARACTERS } from '@porch/core';
import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { LineLog } from './line-log.ts';

const pieces = fc.array(
  fc.oneof(
    fc.array(fc.constantFrom('the ferry 👍🏽\n', 'noon\n', 'a'.repeat(700), '👍'.repeat(400)), { maxLength: 12 }),
    fc.constant('say' as const),
  ),
  { maxLength: 30 },
);

it('says the beginning and the end of each while, all of it where that is short, and counts what it leaves out', () => {
  fc.assert(
    fc.property(pieces, (all) => {
      const log = new LineLog();
      let [printed, since, said] = [0, '', 0];
      const say = (isLast = false) => {
        const entries = log.take(isLast);
        for (const one of entries) {
          expect(one.length).toBeLessThanOrEqual(MAX_LINE_PRINTED_CHARACTERS);
          expect(one).not.toMatch(/[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/);
          said += one.replace(/^…\n/, '').length;
        }
        expect(entries.length).toBeLessThanOrEqual(2);
        const whole = entries.join('');
        if (whole.includes('…\n')) {
          expect(since.startsWith(entries[0] ?? '')).toBe(true);
          expect(since.endsWith((entries[1] ?? '').slice(2))).toBe(true);
        } else expect(whole).toBe(since);
        since = '';
      };
      for (const one of all) {
        if (one === 'say') {
          say();
          continue;
        }
        for (const text of one) {
          log.add(text);
          since += text;
          printed += text.length;
        }
      }
      say(true);
      expect(log.unsaid).toBe(printed - said);
    }),
    runs(),
  );
});

it('says nothing more but its end after many entries', () => {
  const log = new LineLog();
  let entries = 0;
  for (let i = 0; i < 5_000; i++) {
    log.add('x'.repeat(4_000));
    entries += log.take().length;
  }
  expect(entries).toBeLessThanOrEqual(200);
  log.add('the end');
  expect(log.take(true)).toEqual(['the end']);
  expect(log.unsaid).toBeGreaterThanOrEqual(4_900 * 4_000);
});
