import type { Language } from '../language.ts';

const digitWords: Readonly<Record<Language, readonly string[]>> = {
  en: ['zero', 'one', 'two', 'three', 'four', 'five', 'six', 'seven', 'eight', 'nine'],
  no: ['null', 'en', 'to', 'tre', 'fire', 'fem', 'seks', 'sju', 'åtte', 'ni'],
  // Not "zwei": on the telephone it sounds like "drei".
  de: ['null', 'eins', 'zwo', 'drei', 'vier', 'fünf', 'sechs', 'sieben', 'acht', 'neun'],
};

/** A code as it is read on the telephone: digit by digit, a breath after every second one, a longer one in the middle. */
export function readAloud(digits: string, language: Language): string {
  const pairs = digits.match(/\d{1,2}/g) ?? [];
  const words = pairs.map((pair) => [...pair].map((d) => digitWords[language][Number(d)] ?? d).join(' '));
  return words.map((pair, i) => pair + (i === words.length - 1 ? '' : i % 2 ? ' … ' : ', ')).join('');
}
