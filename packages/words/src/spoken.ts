import { languages, languageTags, type Language } from './built/languages.ts';

/** Other names under which people ask for a language of ours: Nynorsk readers are spoken to in Bokmål. */
const alsoCalled: Readonly<Record<string, Language>> = { nn: 'no', no: 'no' };

/** The language of a tag such as `nb-NO` or a locale such as `de_DE.UTF-8`, if it is one of ours. */
export function spokenLanguage(tag: string): Language | undefined {
  const short = tag.slice(0, 2).toLowerCase();
  return languages.find((language) => languageTags[language] === short) ?? alsoCalled[short];
}

/** The first of these that is one of ours. */
export const firstSpoken = (tags: readonly string[]): Language =>
  tags.map(spokenLanguage).find((language) => language !== undefined) ?? 'en';

/** What an account is spoken to in, by POSIX's order of the variables. */
export const languageOf = (environment: Readonly<Record<string, string | undefined>>): Language =>
  firstSpoken([environment['LC_ALL'] || environment['LC_MESSAGES'] || environment['LANG'] || '']);
