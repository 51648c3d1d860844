import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const norwegian: SameKeys<typeof english> = {
  permissions: {
    'draw-on-screen': 'peke og tegne på skjermen din',
  },
  sentences: {},
};
