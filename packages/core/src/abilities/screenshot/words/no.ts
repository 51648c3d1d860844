import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const norwegian: SameKeys<typeof english> = {
  permissions: { 'take-screenshot': 'beholde bilder av skjermen din' },
  sentences: {
    taken: '{who} tok et bilde av skjermen din',
    keptThemselves: '{who} beholdt et bilde av skjermen din',
    keptHere: '{who} la et bilde av skjermen din i protokollen for denne økten',
    keptByYou: '{who} ga deg et bilde av skjermen din',
  },
};
