import { languages } from '@porch/core';
import { expect, it } from 'vitest';
import { wordLists } from './word-lists.ts';
import { randomWords } from './words.ts';

/** Levenshtein's distance: how many letters have to be put in, taken out or changed. */
function distance(a: string, b: string): number {
  let row = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (const [i, letter] of [...a].entries()) {
    const next = [i + 1];
    for (const [j, other] of [...b].entries())
      next.push(Math.min((row[j + 1] ?? 0) + 1, (next[j] ?? 0) + 1, (row[j] ?? 0) + (letter === other ? 0 : 1)));
    row = next;
  }
  return row[b.length] ?? 0;
}

it.each(languages)('has 256 words in %s that every keyboard has, and no two that are one letter apart', (language) => {
  const words = wordLists[language];
  expect(new Set(words).size).toBe(256);
  for (const [i, word] of words.entries()) {
    expect(word).toMatch(/^[a-z]{3,}$/);
    for (const other of words.slice(i + 1)) expect(distance(word, other), `${word}, ${other}`).toBeGreaterThan(1);
  }
});

it('says the same bytes in each language with its own words', () => {
  const bytes = Uint8Array.of(0, 100, 200, 255);
  const said = languages.map((language) => randomWords(bytes, language).join(' '));
  expect(new Set(said).size).toBe(languages.length);
});
