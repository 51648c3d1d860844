import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const german: SameKeys<typeof english> = {
  permissions: { 'take-screenshot': 'Bilder Ihres Bildschirms behalten' },
  sentences: {
    taken: '{who} hat ein Bild Ihres Bildschirms gemacht',
    keptThemselves: '{who} hat ein Bild Ihres Bildschirms behalten',
    keptHere: '{who} hat ein Bild Ihres Bildschirms zu den Akten dieser Sitzung gelegt',
    keptByYou: '{who} hat Ihnen ein Bild Ihres Bildschirms gegeben',
  },
};
