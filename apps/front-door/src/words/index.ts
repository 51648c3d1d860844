import { Language, languages, languageTags, locales } from '@porch/core';
import type { EstimateView } from '@porch/wire';
import { createI18n } from 'vue-i18n';
import { de } from './de.ts';
import { en, type Words } from './en.ts';
import { no } from './no.ts';

const KEPT = 'porch-language';
const all: Readonly<Record<Language, Words>> = { en, no, de };

/** What was chosen before, else what the browser speaks; Norwegian has several names. */
function firstLanguage(): Language {
  const kept = Language.safeParse(localStorage.getItem(KEPT));
  if (kept.success) return kept.data;
  for (const tag of navigator.languages) {
    const short = tag.slice(0, 2).toLowerCase();
    const name = short === 'nb' || short === 'nn' ? 'no' : short;
    const spoken = languages.find((language) => language === name);
    if (spoken) return spoken;
  }
  return 'en';
}

export const i18n = createI18n({ legacy: false, locale: firstLanguage(), fallbackLocale: 'en', messages: all });
export const { t } = i18n.global;
document.documentElement.lang = languageTags[i18n.global.locale.value];

export const language = (): Language => Language.parse(i18n.global.locale.value);
export const hasChosenLanguage = (): boolean => localStorage.getItem(KEPT) !== null;
/** `isChosen`: by the person, so that it stays. */
export function speak(chosen: Language, isChosen: boolean): void {
  i18n.global.locale.value = chosen;
  document.documentElement.lang = languageTags[chosen];
  if (isChosen) localStorage.setItem(KEPT, chosen);
}

const inMinutes = (ms: number): string => {
  const n = Math.round(ms / 60_000);
  return t('minutes', { n }, n === 0 ? 0 : n === 1 ? 1 : 2);
};
/** How long somebody waits, or still waits: about, with a range, and no number when none would be honest. */
export function waitInWords(estimate: EstimateView | undefined, as: 'help.wait' | 'help.more' = 'help.wait'): string {
  if (!estimate) return t('help.nobodyHere');
  if (estimate.toMs < 60_000) return t('help.waitNone');
  return t(as, {
    about: inMinutes(estimate.aboutMs),
    from: inMinutes(estimate.fromMs),
    to: inMinutes(estimate.toMs),
  });
}
export const when = (atMs: number): string =>
  new Date(atMs).toLocaleString(locales[language()], { weekday: 'long', hour: '2-digit', minute: '2-digit' });
export const clock = (atMs: number): string =>
  new Date(atMs).toLocaleTimeString(locales[language()], { hour: '2-digit', minute: '2-digit' });
export const dayAndTime = (atMs: number): string => new Date(atMs).toLocaleString(locales[language()]);
