import { languages, searchWords, type Language } from '@porch/core';

/** How PostgreSQL's text search brings words of a language to their stems. */
const configurations: Readonly<Record<Language, string>> = { en: 'english', no: 'norwegian', de: 'german' };

/** More words of a question add nothing. */
const MAX_ASKED = 60;

export const configurationOf = (language: Language): string => configurations[language];

/** A text as it is kept to be found: its words, without accents or what stands between them. */
export const foundBy = (text: string): string => searchWords(text).join(' ');

/** Any of these words, as text search asks for it; nothing for none. Letters and digits alone: nothing in them has a meaning there. */
export const anyOf = (text: string): string => searchWords(text).slice(0, MAX_ASKED).join(' | ');

/** All of these words, and of the last its beginning is enough: somebody is still typing. */
export const allOf = (text: string): string =>
  searchWords(text)
    .slice(0, MAX_ASKED)
    .map((word, at, all) => (at === all.length - 1 ? `${word}:*` : word))
    .join(' & ');

/** A piece of SQL for each language of a row `n`, with the configuration of that language in it. */
export const perLanguage = (piece: (configuration: string) => string): string =>
  `CASE n."language" ${languages.map((one) => `WHEN '${one}' THEN ${piece(`'${configurations[one]}'`)}`).join(' ')} END`;

/** The same as a condition that an index can answer. */
export const inAnyLanguage = (condition: (configuration: string) => string): string =>
  `(${languages.map((one) => `(n."language" = '${one}' AND ${condition(`'${configurations[one]}'`)})`).join(' OR ')})`;
