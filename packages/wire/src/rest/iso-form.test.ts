import { Language } from '@porch/core';
import { runs } from '@porch/testkit';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { z } from 'zod';
import { api } from './api/index.ts';
import { isoForm } from './iso-form.ts';
import { InEveryLanguage } from './in-every-language.ts';
import { Moment } from './moment.ts';

const Thing = z.strictObject({
  startsAtMs: Moment,
  seenAtMs: Moment.optional(),
  remainingMs: z.number(),
  parts: z.array(z.object({ atMs: Moment, words: z.string() })).max(5),
  other: z.record(z.string(), z.number()).optional(),
});
const moments = fc.integer({ min: 0, max: 4_000_000_000_000 });
const things = fc.record(
  {
    startsAtMs: moments,
    seenAtMs: moments,
    remainingMs: fc.nat(),
    parts: fc.array(fc.record({ atMs: moments, words: fc.string({ unit: 'binary' }) }), { maxLength: 5 }),
    other: fc.dictionary(fc.string(), fc.nat()),
  },
  { requiredKeys: ['startsAtMs', 'remainingMs', 'parts'] },
);

it('says moments in ISO 8601 under names without a unit, and brings everything back as it was', () => {
  const { schema, toIso, fromIso } = isoForm(Thing);
  fc.assert(
    fc.property(things, (thing) => {
      const sent = JSON.parse(JSON.stringify(toIso(thing))) as Record<string, unknown>;
      expect(sent['startsAt']).toBe(new Date(thing.startsAtMs).toISOString());
      expect(sent).not.toHaveProperty('startsAtMs');
      expect(sent['remainingMs'], 'a duration is no moment').toBe(thing.remainingMs);
      expect(schema.safeParse(sent).success).toBe(true);
      expect(fromIso(sent)).toEqual(JSON.parse(JSON.stringify(thing)));
      expect(schema.safeParse({ ...sent, more: 1 }).success, 'strict stays strict').toBe(false);
    }),
    runs(),
  );
  expect(schema.safeParse({ startsAt: '2026-11-30', remainingMs: 1, parts: [] }).success).toBe(false);
  expect(isoForm(Thing), 'made once').toBe(isoForm(Thing));
});

it('calls languages as standards do, and by default as well', () => {
  const Said = z.object({ language: Language, other: Language.default('no'), words: InEveryLanguage.optional() });
  const { schema, toIso, fromIso } = isoForm(Said);
  const words = { en: 'Printing', no: 'Utskrift', de: 'Drucken' };
  const sent = toIso({ language: 'no', other: 'de', words });
  expect(sent).toEqual({ language: 'nb', other: 'de', words: { en: 'Printing', nb: 'Utskrift', de: 'Drucken' } });
  expect(fromIso(sent)).toEqual({ language: 'no', other: 'de', words });
  expect(fromIso(schema.parse({ language: 'en' }))).toEqual({ language: 'en', other: 'no' });
  expect(schema.safeParse({ language: 'no' }).success).toBe(false);
});

it('leaves no moment of the contract in milliseconds, but in what was signed or hashed so', () => {
  const inMilliseconds = Object.values(api).flatMap(({ id, answer, query, body }) =>
    [answer, query, ...(body ? [body] : [])].flatMap((schema) => {
      const text = JSON.stringify(z.toJSONSchema(isoForm(schema).schema, { io: 'input', unrepresentable: 'any' }));
      return (text.match(/"(\w*[aA]tMs|sinceMs|untilMs)"/g) ?? []).map((name) => `${id} ${name}`);
    }),
  );
  expect(new Set(inMilliseconds.map((one) => one.split(' ')[0]))).toEqual(new Set(['keepDevice', 'getLedger']));
});
