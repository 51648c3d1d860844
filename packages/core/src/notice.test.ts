import { expect, it } from 'vitest';
import { languages } from './language.ts';
import { defaultNotice, readNotice } from './notice.ts';

it('reads a desk’s own notice in every language, and says what is missing', () => {
  for (const language of languages) expect(defaultNotice[language].split('\n')).toHaveLength(5);
  const { version, texts } = readNotice({ version: '2027-01', ...defaultNotice });
  expect([version, texts]).toEqual(['2027-01', defaultNotice]);
  expect(() => readNotice({ version: '1', en: 'a', no: 'b' })).toThrow(/^de: /);
  expect(() => readNotice({ version: '', ...defaultNotice })).toThrow(/^version: /);
  expect(() => readNotice('a notice')).toThrow(/^the file: /);
});
