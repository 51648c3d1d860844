import { mail } from '@porch/words/mail';
import { z } from 'zod';
import { languages, type Language } from './language.ts';

/*
 * What a customer reads before they begin, if they want the whole of it. A desk writes its own; these say what this
 * software does by itself, and no more.
 */
export const defaultNotice = Object.fromEntries(
  languages.map((language) => [language, mail[language].notice.text]),
) as Readonly<Record<Language, string>>;

const text = z.string().trim().min(1).max(8_000);
const Notice = z.strictObject({
  version: z.string().trim().min(1).max(20),
  en: text,
  no: text,
  de: text,
} satisfies Record<Language | 'version', z.ZodType>);

/** Reads a desk's own notice: a version, and the text in every language. Throws with what is wrong. */
export function readNotice(value: unknown): { version: string; texts: Readonly<Record<Language, string>> } {
  const parsed = Notice.safeParse(value);
  if (!parsed.success)
    throw new Error(parsed.error.issues.map((i) => `${i.path.join('.') || 'the file'}: ${i.message}`).join('; '));
  const { version, ...texts } = parsed.data;
  return { version, texts };
}
