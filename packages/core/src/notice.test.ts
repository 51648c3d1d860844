import { expect, it } from 'vitest';
import { languages } from './language.ts';
import { defaultNotice, readNotice } from './notice.ts';
import { readTopics } from './queue/topic-needs.ts';

it('reads a desk’s own notice in every language, and says what is missing', () => {
  for (const language of languages) expect(defaultNotice[language].split('\n')).toHaveLength(5);
  const { version, texts } = readNotice({ version: '2027-01', ...defaultNotice });
  expect([version, texts]).toEqual(['2027-01', defaultNotice]);
  expect(() => readNotice({ version: '1', en: 'a', no: 'b' })).toThrow(/^de: /);
  expect(() => readNotice({ version: '', ...defaultNotice })).toThrow(/^version: /);
  expect(() => readNotice('a notice')).toThrow(/^the file: /);
});

it('reads topics with their words, and falls back to what they are filed under', () => {
  expect(readTopics('Printing | Utskrift | Drucken, Signing in, , On board | Om bord')).toEqual([
    { topic: 'Printing', words: { en: 'Printing', no: 'Utskrift', de: 'Drucken' } },
    { topic: 'Signing in', words: { en: 'Signing in', no: 'Signing in', de: 'Signing in' } },
    { topic: 'On board', words: { en: 'On board', no: 'Om bord', de: 'On board' } },
  ]);
});
