import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const german: SameKeys<typeof english> = {
  permissions: {
    'work-alone': 'Ihre Maus und Tastatur benutzen, während Sie weg sind',
  },
  sentences: {
    privateOn: 'Sie tun etwas Privates; nichts wird gezeigt',
    privateOff: 'Sie sind mit dem Privaten fertig',
    away: 'Niemand schien am Computer zu sein, also darf niemand dort arbeiten',
    back: 'Sie sind wieder am Computer',
  },
};
