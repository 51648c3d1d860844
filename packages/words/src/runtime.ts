/* What built words call: choices of ICU messages (Unicode CLDR plural rules, by Intl). */

const rules = new Map<string, Intl.PluralRules>();
const numbers = new Map<string, Intl.NumberFormat>();

function kept<T>(map: Map<string, T>, locale: string, make: (locale: string) => T): T {
  const known = map.get(locale) ?? make(locale);
  map.set(locale, known);
  return known;
}

export const number = (locale: string, n: number): string =>
  kept(numbers, locale, (l) => new Intl.NumberFormat(l)).format(n);

/** The form for a count: the one for exactly it (`=0`), else the one of its class, else `other`. */
export function plural(locale: string, n: number, forms: Readonly<Record<string, string>>): string {
  const of = kept(rules, locale, (l) => new Intl.PluralRules(l)).select(n);
  return forms[`=${n}`] ?? forms[of] ?? forms['other'] ?? '';
}

export const choose = (word: string, forms: Readonly<Record<string, string>>): string =>
  (Object.hasOwn(forms, word) ? forms[word] : forms['other']) ?? '';
