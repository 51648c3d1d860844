import { expect, it } from 'vitest';
import { de } from './de.ts';
import { en } from './en.ts';
import { no } from './no.ts';

const flat = (words: object, path = ''): [string, string][] =>
  Object.entries(words).flatMap(([key, value]) =>
    typeof value === 'string' ? [[path + key, value] as [string, string]] : flat(value as object, `${path}${key}.`),
  );
const fields = (text: string) => (text.match(/\{\w+\}/g) ?? []).sort();

it('every language says the same things, with the same fields, and leaves nothing in English', () => {
  const english = new Map(flat(en));
  for (const words of [no, de]) {
    const said = flat(words);
    expect(said.map(([key]) => key)).toEqual([...english.keys()]);
    for (const [key, text] of said) {
      expect(text.trim(), key).not.toBe('');
      expect(fields(text), key).toEqual(fields(english.get(key) ?? ''));
      // Names, numbers and words that are the same in both, apart.
      if (text.length > 20) expect(text, key).not.toBe(english.get(key));
    }
  }
});

it('keeps sentences short enough to read on the telephone', () => {
  for (const words of [en, no, de])
    for (const [key, text] of flat(words))
      for (const sentence of text.split(/[.?!:;] /)) expect(sentence.split(/\s+/).length, key).toBeLessThanOrEqual(28);
});
