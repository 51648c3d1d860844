import { languages, languageTags, type Language as Spoken } from '@porch/words';
import { z } from 'zod';

export { languageNames, languages, languageTags } from '@porch/words';

/** What people are spoken to in. Ledgers say `no`, and will for ever. */
export const Language = z.enum(languages);
export type Language = Spoken;

/** By what standards call it (BCP 47): what other programs, addresses and pages say. */
export const languageOfTag = (tag: string): Language | undefined =>
  languages.find((language) => languageTags[language] === tag);
