import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const norwegian: SameKeys<typeof english> = {
  permissions: {
    'work-alone': 'bruke musen og tastaturet ditt mens du er borte',
  },
  sentences: {
    privateOn: 'Du gjør noe privat; ingenting vises',
    privateOff: 'Du er ferdig med det private',
    away: 'Ingen så ut til å være ved maskinen, så ingen får bruke mus og tastatur der',
    back: 'Du er ved maskinen igjen',
  },
};
