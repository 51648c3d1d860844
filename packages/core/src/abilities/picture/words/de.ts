import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const german: SameKeys<typeof english> = {
  permissions: {
    'view-screen': 'Ihren Bildschirm sehen',
  },
  sentences: {
    shows: 'Sie zeigen {what}',
  },
};
