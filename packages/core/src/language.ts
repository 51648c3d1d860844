import { z } from 'zod';

/** What customers are spoken to in. */
export const Language = z.enum(['en', 'no', 'de']);
export type Language = z.infer<typeof Language>;
export const languages: readonly Language[] = Language.options;
export const languageNames: Readonly<Record<Language, string>> = { en: 'English', no: 'Norsk', de: 'Deutsch' };
