import type { Language } from '../language.ts';

/** What a customer's program decided and could tell only when it changed nothing any longer, in the customer's words. */
export const notedFacts = {
  'a private moment': { en: 'a private moment', no: 'noe privat', de: 'etwas Privates' },
  'nobody was there': { en: 'nobody was there', no: 'ingen var der', de: 'niemand war da' },
  'somebody was there': { en: 'somebody was there', no: 'noen var der', de: 'jemand war da' },
  'said no to an ask that was closed already': {
    en: 'you said no to a question that was closed already',
    no: 'du sa nei til et spørsmål som allerede var avsluttet',
    de: 'Sie haben Nein zu einer Frage gesagt, die schon geschlossen war',
  },
  'control had started': {
    en: 'mouse and keyboard had been used',
    no: 'mus og tastatur hadde vært i bruk',
    de: 'Maus und Tastatur waren benutzt worden',
  },
  'a screenshot had been taken': {
    en: 'a picture of your screen had been taken',
    no: 'et bilde av skjermen din var tatt',
    de: 'ein Bild Ihres Bildschirms war gemacht worden',
  },
  'compared words while another computer was shown': {
    en: 'you compared check words while another computer was shown',
    no: 'du sammenlignet kontrollord mens en annen maskin ble vist',
    de: 'Sie haben Prüfwörter verglichen, während ein anderer Computer gezeigt wurde',
  },
  'pressed Stop after the end': {
    en: 'you pressed Stop after the end',
    no: 'du trykket på Stopp etter slutten',
    de: 'Sie haben nach dem Ende auf Stopp gedrückt',
  },
  'said again what was told before': {
    en: 'you said again what was told before',
    no: 'du sa igjen noe som var sagt før',
    de: 'Sie haben noch einmal gesagt, was schon gesagt war',
  },
} as const satisfies Readonly<Record<string, Readonly<Record<Language, string>>>>;

export type NotedFact = keyof typeof notedFacts;
export const isNotedFact = (what: string): what is NotedFact => Object.hasOwn(notedFacts, what);
