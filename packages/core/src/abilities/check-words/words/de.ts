import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const german: SameKeys<typeof english> = {
  permissions: {},
  sentences: {
    wordsSame: 'Sie haben die Prüfwörter mit {who} verglichen: dieselben',
    wordsDiffer: 'Sie haben die Prüfwörter mit {who} verglichen: nicht dieselben',
  },
};
