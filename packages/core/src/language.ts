import { z } from 'zod';

/** What customers are spoken to in. */
export const Language = z.enum(['en', 'no', 'de']);
export type Language = z.infer<typeof Language>;
export const languages: readonly Language[] = Language.options;
export const locales: Readonly<Record<Language, string>> = { en: 'en-GB', no: 'nb-NO', de: 'de-DE' };

/** Things in a row as people say them: “one, two and three”. */
export const listOf = (words: readonly string[], language: Language): string =>
  new Intl.ListFormat(locales[language], { type: 'conjunction' }).format(words);
/** As standards call them (BCP 47): what other programs, addresses and pages say. Ledgers say `no`, and will for ever. */
export const languageTags: Readonly<Record<Language, string>> = { en: 'en', no: 'nb', de: 'de' };
export const languageOfTag = (tag: string): Language | undefined =>
  languages.find((language) => languageTags[language] === tag);
export const languageNames: Readonly<Record<Language, string>> = { en: 'English', no: 'Norsk', de: 'Deutsch' };
