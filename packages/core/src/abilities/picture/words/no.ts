import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const norwegian: SameKeys<typeof english> = {
  permissions: {
    'view-screen': 'se skjermen din',
  },
  sentences: {
    shows: 'Du viser {what}',
  },
};
